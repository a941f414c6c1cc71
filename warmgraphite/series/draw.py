"""Drawing a set: what is there already is left as it is, so that one that was stopped goes on where it was."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

import pypdfium2
from PIL import Image

from warmgraphite.atomic import atomic_write
from warmgraphite.board.drawn import board_leaf
from warmgraphite.board.write import write_board
from warmgraphite.canvas.pixels import make_straight_rgba
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.drawing import Drawing
from warmgraphite.drawing.tiles import TiledDrawing
from warmgraphite.model.model import Model
from warmgraphite.out.format import on_white
from warmgraphite.out.leaf import Leaf
from warmgraphite.out.write import FORMATS
from warmgraphite.passes.store import PassStore
from warmgraphite.series.contact import write_contact_sheet
from warmgraphite.series.kept import KeptSet
from warmgraphite.series.plan import Item, SeriesSettings, board_of, plan_of, source_of
from warmgraphite.sheet.page import page_leaf
from warmgraphite.sheet.write import write_drawing
from warmgraphite.study.document import StudyDocument
from warmgraphite.study.placed_drawings import in_study, made_ready

__all__ = ["draw_set"]

Watch = Callable[[str, float], None]
#: Pixels of the longer side of a small picture.
SMALL = 640


def draw_set(
    document: StudyDocument, model: Model, settings: SeriesSettings, folder: Path, *, store: PassStore | None = None,
    kept: KeptPictures | None = None, room: Path | None = None, watch: Watch | None = None,
) -> list[Item]:  # fmt: skip
    """Draw every view and board of a set into ``folder``, and a contact sheet of all.
    What is there already and shows what it should is left. ``watch`` is told the stage and the whole's progress, and
    may raise to stop; what was drawn by then stays.

    Raises :class:`OutputError` for what cannot be drawn or written at all; a single view that cannot be drawn is told
    in its item.
    """
    tell = watch or (lambda _stage, _share: None)
    items = plan_of(document, model, settings)
    there = KeptSet.of(folder)
    there.begin()
    before: Drawing | None = None
    out: list[Item] = []
    with tempfile.TemporaryDirectory(prefix="set-", dir=room) as scratch:
        own = store or PassStore(Path(scratch) / "passes", limit=1 << 33)
        for number, item in enumerate(items):
            start, share = number / (len(items) + 0.2), 1 / (len(items) + 0.2)
            if item.problem or there.has(item):
                out.append(item)
                continue
            tell(f"{number + 1} of {len(items)}: {item.name}", start)
            with tempfile.TemporaryDirectory(prefix="tiles-", dir=scratch) as tiles:
                step = lambda stage, f, item=item, number=number, start=start, share=share: tell(
                    f"{number + 1} of {len(items)}: {item.name}: {stage}"[:80], start + 0.98 * share * f
                )
                if item.kind == "view":
                    before, problem = _view(
                        document, model, settings, item, there, own, kept, Path(tiles), before, step
                    )
                else:
                    problem = _board(document, model, settings, item, there, own, kept, Path(tiles), step)
            if not problem:
                there.add(item)
            out.append(
                item
                if not problem
                else Item(item.kind, item.id, item.name, item.mark, item.file, "", item.page, problem)
            )
    there.without(items)
    tell("The contact sheet", len(items) / (len(items) + 0.2))
    write_contact_sheet(out, there, document.name)
    tell("", 1.0)
    return out


def _writing(settings: SeriesSettings, tell: Watch) -> Callable[[float], None]:
    return lambda share: tell(f"writing the {FORMATS[settings.format].label}", 0.6 + 0.35 * share)


# Many arguments: what one drawing of a set is made of and where it goes.
def _view(
    document: StudyDocument, model: Model, settings: SeriesSettings, item: Item, there: KeptSet, store: PassStore,
    kept: KeptPictures | None, tiles: Path, before: Drawing | None, tell: Watch,
) -> tuple[Drawing | None, str]:  # fmt: skip
    saved = next(v for v in document.views if v.id == item.id)
    source = source_of(document, model, settings, saved)
    drawing = Drawing(
        source.model, source.view, None, store, ink=source.look, pictures=kept, bench=before.bench if before else None
    )
    problem = drawing.result("frame").problem
    if problem:
        return before, str(problem)
    tiled = TiledDrawing(drawing, tiles)
    tiled.compute_picture(source.look.traces, source.look, source.look.notes, lambda stage, f: tell(stage, 0.6 * f))
    plate = tiled.plate(document.name)
    path = there.folder / item.file
    write_drawing(
        plate, source.look.traces, source.sheet, path, watch=_writing(settings, tell), **settings.out.model_dump()
    )
    _make_small(path, page_leaf(plate, source.look.traces, source.sheet, paper=settings.out.paper), there.small(item))
    drawing.rest()
    return drawing, ""


# Many arguments: what one board of a set is made of and where it goes.
def _board(
    document: StudyDocument, model: Model, settings: SeriesSettings, item: Item, there: KeptSet, store: PassStore,
    kept: KeptPictures | None, tiles: Path, tell: Watch,
) -> str:  # fmt: skip
    board = board_of(document, settings, item.id)
    shown = None if FORMATS[settings.format].many else item.page
    ready = made_ready(
        board, lambda row: in_study(row, document, model), tiles, settings.out.resolution, store=store, kept=kept,
        page=shown,
        watch=lambda stage, f: tell(stage, 0.6 * f),
    )  # fmt: skip
    path = there.folder / item.file
    write_board(
        board,
        ready,
        path,
        study=document.name,
        page=item.page,
        kept=kept,
        watch=_writing(settings, tell),
        **settings.out.model_dump(),
    )
    _make_small(path, board_leaf(board, item.page, ready, document.name, kept), there.small(item))
    return ""


def _make_small(written: Path, leaf: Leaf, path: Path) -> None:
    """The small picture of a file: of a document made of the file itself, so that it shows what is in it.
    Else of the page that it is of.
    """
    ending = written.suffix.lower().lstrip(".")
    if ending == "pdf":
        with pypdfium2.PdfDocument(written) as document:
            page = document[0]
            picture = page.render(scale=SMALL / max(page.get_size())).to_pil().convert("RGB")
    else:
        scale = SMALL / max(leaf.size)
        pixels = leaf.pixels((max(1, round(leaf.size[0] * scale)), max(1, round(leaf.size[1] * scale))))
        make_straight_rgba(pixels)
        picture = Image.fromarray(on_white(pixels), "RGB")
    with atomic_write(path, lasting=False) as draft:
        picture.save(draft, "PNG")
