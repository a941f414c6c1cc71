"""The same work without a browser: passes and drawings from the command line.

Whatever is wrong with the input is one plain line on standard error and exit status 2.
"""

from __future__ import annotations

import importlib
import os
import sys
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer
from typer.exceptions import TyperException

from warmgraphite.errors import GraphiteError, OutputError, StudyNotFoundError

if TYPE_CHECKING:
    from warmgraphite.study import Look, StudyDocument

app = typer.Typer(add_completion=False, rich_markup_mode=None, help="From a building model to a drawing at scale.")

Units = Annotated[str | None, typer.Option(help="Units of the model file: m, cm, mm, ft or in; guessed when left out.")]
Up = Annotated[str | None, typer.Option(help="Up-axis of the model file: z or y; guessed when left out.")]

#: The finishes that come with the application, by name; here, so that --help loads nothing.
SHIPPED = ("Warm wash", "Construction", "Ink plan", "Graphite", "Night sheet", "Collage")
LayersBy = Annotated[
    str, typer.Option(help="What becomes a layer: traces, ranks, model, several with commas, or none.")
]
Stock = Annotated[
    Path | None, typer.Option(help="The folder of pictures that it shows; the application's own when left out.")
]
Archival = Annotated[bool, typer.Option(help="A PDF that is kept: PDF/A-2b.")]
Outlines = Annotated[bool, typer.Option(help="Letters as outlines, for PDF and SVG.")]
Quality = Annotated[
    int,
    typer.Option(
        min=30, max=100, help="Of pictures in JPEG, WebP and PDF; WebP and PDF keep every pixel as it is at 100."
    ),
]


def _model(path: Path, units: str | None, up: str | None):  # type: ignore[no-untyped-def]
    from warmgraphite.model.read import read_model, sniff_format
    from warmgraphite.model.units import METRES_PER

    if units is not None and units not in METRES_PER:
        raise OutputError(f"“{units}” is no unit; use {', '.join(METRES_PER)}.")
    if up is not None and up not in ("z", "y"):
        raise OutputError(f"“{up}” is no up-axis; use z or y.")
    if not path.is_file():
        raise StudyNotFoundError(f"There is no model file “{path}”; check the name.")
    if sniff_format(path) in ("ifc", "zip"):
        # The library for IFC is not written in this language, and a damaged file can take its process down.
        from warmgraphite.model.sandboxed import read_fresh

        with tempfile.TemporaryDirectory(prefix="model-") as folder:
            return read_fresh(path, Path(folder), units, up)
    return read_model(path, units, up)  # type: ignore[arg-type]


def _study(name: str):  # type: ignore[no-untyped-def]
    """Model and document of a study by name. Where studies live is told by the environment: the core keeps none."""
    where = os.environ.get("WARMGRAPHITE_STUDIES", "")
    if where:
        module, _, function = where.partition(":")
        return getattr(importlib.import_module(module), function)(name)
    raise StudyNotFoundError(f"There is no model file and no study “{name}”; check the name.")


@app.command()
def passes(
    model: Annotated[
        Path, typer.Argument(help="A model: IFC, GLB, glTF, OBJ, STL, PLY, COLLADA, OFF, 3MF, or a zip archive of one.")
    ],
    view: Annotated[Path, typer.Option(help="The view file (JSON).")],
    out: Annotated[Path, typer.Option(help="The folder to write.")],
    only: Annotated[str | None, typer.Option(help="Passes to write, with commas between them.")] = None,
    pictures: Annotated[str, typer.Option(help="How passes with pixels are kept: png or tiff.")] = "png",
    part_set: Annotated[str, typer.Option("--set", help="The part set of the model that is seen alone.")] = "",
    units: Units = None,
    up: Up = None,
) -> None:
    """Compute the passes of a view of a model and write them as a bundle."""
    from warmgraphite.bundle import write_bundle
    from warmgraphite.drawing import Drawing
    from warmgraphite.view.specification import read_view

    if pictures not in ("png", "tiff"):
        raise OutputError(f"“{pictures}” is no format of pictures; use png or tiff.")
    spec = read_view(view)
    drawing = Drawing(_model(model, units, up), spec)
    write_bundle(
        drawing.alone(part_set) if part_set else drawing,
        out,
        [n for n in (only or "").split(",") if n] or None,
        pictures="tiff" if pictures == "tiff" else "png",
    )


# Many arguments: one for each option of the command.
@app.command()
def draw(
    source: Annotated[str, typer.Argument(metavar="STUDY|MODEL", help="A model file, or the name of a study.")],
    out: Annotated[Path, typer.Option(help="The file to write: .pdf, .svg, .png, .tiff, .jpg, .webp or .ora.")],
    view: Annotated[str, typer.Option(help="The view file (JSON); for a study also a view's name or mark.")] = "",
    drawing: Annotated[
        Path | None, typer.Option(help="A drawing file (JSON): a view with its finish and its sheet.")
    ] = None,
    resolution: Annotated[float | None, typer.Option(help="Pixels per inch; the view's own when left out.")] = None,
    paper: Annotated[bool, typer.Option(help="With or without the paper.")] = True,
    layers: LayersBy = "traces",
    archival: Archival = False,
    outlines: Outlines = False,
    quality: Quality = 92,
    finish: Annotated[
        str,
        typer.Option(help=f"A finish to lay over: its file, or its name: of a study's own, or {', '.join(SHIPPED)}."),
    ] = "",
    stock: Stock = None,
    units: Units = None,
    up: Up = None,
) -> None:
    """Draw a view or a drawing file: of a model, or of a study as it was left."""
    from warmgraphite.collage.pictures.kept import KeptPictures
    from warmgraphite.drawing import Drawing
    from warmgraphite.drawing.tiles import TiledDrawing
    from warmgraphite.out.format import MOST_WRITTEN
    from warmgraphite.out.write import format_of, refuse_resolution
    from warmgraphite.sheet.write import write_drawing
    from warmgraphite.study import fresh_document, read_drawing
    from warmgraphite.view.frame import refuse_pixels
    from warmgraphite.view.specification import read_view

    format_of(out)
    if resolution is not None:
        refuse_resolution(resolution)
    said = _said_of_file(layers, archival, outlines, quality)
    if bool(view) == (drawing is not None):
        raise OutputError("Say what to draw: either a view with --view, or a drawing with --drawing.")
    asked = read_drawing(_text(drawing, "drawing"), f"“{drawing.name}”") if drawing else None
    if Path(source).is_file():
        found = _model(Path(source), units, up)
        document = fresh_document(found.name, [asked.view if asked else read_view(Path(view))])
        saved = document.views[0]
    else:
        found, document = _study(source)
        named = [v for v in document.views if view in (v.view.name, v.mark)]
        other = asked.view if asked else None if named else read_view(Path(view))
        saved = document.on_desk.model_copy(update={"view": other}) if other else named[0]
    spec, look, sheet = (
        (asked.view, asked.drawn_look, asked.sheet) if asked else (saved.view, document.drawn_look(saved), saved.sheet)
    )
    if resolution is not None:
        spec = spec.model_copy(update={"frame": spec.frame.model_copy(update={"resolution": resolution})})
    plain = _finish(finish, document) if finish else look
    look = plain.resolved(document.regions).marked(look.marks, look.figures, look.notes)
    kept = stock or Path(os.environ.get("WARMGRAPHITE_STOCK") or "stock")
    made = Drawing(found, spec, ink=look, pictures=KeptPictures(kept))
    refuse_pixels(*made.size, MOST_WRITTEN, spec.frame.resolution)
    with tempfile.TemporaryDirectory(prefix="tiles-") as pixels:
        tiled = TiledDrawing(made, Path(pixels))
        tiled.compute_picture(look.traces, look, look.notes)
        plate = tiled.plate(document.name)
        write_drawing(plate, look.traces, sheet, out, paper=paper, resolution=spec.frame.resolution, **said)


# Many arguments: one for each option of the command.
@app.command()
def board(
    file: Annotated[Path, typer.Argument(help="A board file (JSON).")],
    out: Annotated[Path, typer.Option(help="The file to write: .pdf, .svg, .png, .tiff, .jpg, .webp or .ora.")],
    page: Annotated[int, typer.Option(help="The page that SVG and PNG show.")] = 1,
    resolution: Annotated[float, typer.Option(help="Pixels per inch.")] = 150.0,
    layers: LayersBy = "traces",
    archival: Archival = False,
    outlines: Outlines = False,
    quality: Quality = 92,
    stock: Stock = None,
) -> None:
    """Draw a board: several drawings on a page, of models or of studies."""
    from warmgraphite.board.file import read_board
    from warmgraphite.board.specification import PlacedDrawing
    from warmgraphite.board.write import write_board
    from warmgraphite.collage.pictures.kept import KeptPictures
    from warmgraphite.out.write import format_of, refuse_resolution
    from warmgraphite.study import read_drawing
    from warmgraphite.study.drawing_file import read_drawing_data
    from warmgraphite.study.placed_drawings import Source, in_study, made_ready

    shown = None if format_of(out).many else page
    refuse_resolution(resolution)
    said = _said_of_file(layers, archival, outlines, quality)
    asked = read_board(_text(file, "board"), f"“{file.name}”")
    asked.refuse_page(page)
    models: dict[str, Any] = {}

    def source_of(row: PlacedDrawing) -> Source:
        beside = file.parent / row.model
        path = beside if beside.is_file() else Path(row.model)
        if row.model not in models:
            models[row.model] = (_model(path, None, None), None) if path.is_file() else _study(row.model)
        model, document = models[row.model]
        if row.drawing is None:
            if document is None:
                raise OutputError(
                    f"“{file.name}” asks for the view “{row.view}” of {row.model}, which is a model; name a study, or "
                    f"give the drawing."
                )
            return in_study(row, document, model)
        if isinstance(row.drawing, str):
            drawing = read_drawing(_text(file.parent / row.drawing, "drawing"), f"“{row.drawing}”")
        else:
            drawing = read_drawing_data(row.drawing, f"The drawing “{row.id}” of “{file.name}”")
        name = document.name if document is not None else model.name
        return Source(model, drawing.view, drawing.drawn_look, drawing.sheet, "", name).on(row)

    kept = KeptPictures(stock or Path(os.environ.get("WARMGRAPHITE_STOCK") or "stock"))
    with tempfile.TemporaryDirectory(prefix="tiles-") as room:
        ready = made_ready(asked, source_of, Path(room), resolution, kept=kept, page=shown)
        study = next((str(d.plate.study_name) for d in ready), "")
        write_board(asked, ready, out, study=study, page=page, resolution=resolution, kept=kept, **said)


# Many arguments: one for each option of the command.
@app.command("set")
def draw_all(
    study: Annotated[str, typer.Argument(metavar="STUDY", help="The name of a study.")],
    out: Annotated[Path, typer.Option(help="The folder to draw into; a set that is there is gone on with.")],
    finish: Annotated[str, typer.Option(help="The finish that all are drawn in; each in its own when left out.")] = "",
    views: Annotated[
        str, typer.Option(help="Names or marks of views, and names of boards, with commas between; all when left out.")
    ] = "",
    file_format: Annotated[str, typer.Option("--format", help="pdf, svg, png, tiff, jpg, webp or ora.")] = "pdf",
    resolution: Annotated[float, typer.Option(help="Pixels per inch.")] = 300.0,
    layers: LayersBy = "traces",
    archival: Archival = False,
    outlines: Outlines = False,
    quality: Quality = 92,
    stock: Stock = None,
) -> None:
    """Draw every view and board of a study into a folder, with a contact sheet; what is there already is left."""
    from warmgraphite.collage.pictures.kept import KeptPictures
    from warmgraphite.out.settings import OutSettings
    from warmgraphite.out.write import refuse_resolution
    from warmgraphite.series.draw import draw_set
    from warmgraphite.series.plan import SeriesSettings

    refuse_resolution(resolution)
    how = OutSettings(resolution=resolution, **_said_of_file(layers, archival, outlines, quality))
    names = tuple(w.strip() for w in views.split(",") if w.strip())
    model, document = _study(study)
    kept = KeptPictures(stock or Path(os.environ.get("WARMGRAPHITE_STOCK") or "stock"))
    said = ""

    def watch(stage: str, _share: float) -> None:
        nonlocal said
        head = stage.split(": ")
        words = ": ".join(head[:2])
        if words and words != said:
            said = words
            print(words, flush=True)

    settings = SeriesSettings(format=file_format, out=how, finish=finish, views=names)
    found = draw_set(document, model, settings, out, kept=kept, watch=watch)
    for item in found:
        if item.problem:
            print(f"“{item.name}” was left out: {item.problem}", file=sys.stderr)


@app.command()
def photograph(
    plate: Annotated[Path, typer.Argument(help="A drawing as PNG or JPEG.")],
    out: Annotated[Path, typer.Option(help="The JPEG to write.")],
    seed: Annotated[int, typer.Option(help="Another number is another photograph.")] = 1,
) -> None:
    """Photograph a drawing with a stand-in for a telephone.
    Crooked, unevenly lit, with noise and a place in its file.
    """
    import numpy as np

    from warmgraphite.atomic import atomic_write
    from warmgraphite.collage.pictures.intake import taken
    from warmgraphite.collage.pictures.phone import photographed
    from warmgraphite.errors import PictureError

    try:
        data = plate.read_bytes()
    except OSError:
        raise PictureError(f"There is no file “{plate}” that could be read; give the path of a drawing.") from None
    picture = np.asarray(taken(data, plate.name).picture)
    with atomic_write(out) as draft:
        draft.write_bytes(photographed(picture, seed).data)


def _said_of_file(layers: str, archival: bool, outlines: bool, quality: int) -> dict[str, Any]:
    """What was said of the file, as fields of the settings."""
    kinds = () if layers == "none" else tuple(w.strip() for w in layers.split(",") if w.strip())
    wrong = next((k for k in kinds if k not in ("traces", "ranks", "model")), None)
    if wrong is not None:
        raise OutputError(f"“{wrong}” is no kind of layer; use traces, ranks, model, or none.")
    return {"layers": kinds, "archival": archival, "text": "outlines" if outlines else "fonts", "quality": quality}


def _text(path: Path, what: str) -> str:
    if not path.is_file():
        raise OutputError(f"There is no {what} file “{path}”; check the name.")
    try:
        return path.read_text("utf-8")
    except (OSError, UnicodeDecodeError):
        raise OutputError(
            f"“{path.name}” cannot be read as text, so it is no {what}; choose the file that was written as one."
        ) from None


def _finish(name: str, document: StudyDocument) -> Look:
    """The look of a finish file, of the finish of a study with this name, or of one that comes with the application."""
    from warmgraphite.study.finish import read_finish
    from warmgraphite.study.kit import shipped_finishes

    named = shipped_finishes() | {kept.name: kept.plain for kept in document.finishes}
    if name in named:
        return named[name]
    path = Path(name)
    if not path.is_file():
        known = ", ".join(f"“{n}”" for n in named)
        raise OutputError(f"There is no finish “{name[:200]}”, neither as a file nor by name; there are {known}.")
    return read_finish(_text(path, "finish"), f"“{path.name}”")[1]


def main() -> None:
    """Run a command; turn every fault of the input into one line and exit status 2."""
    try:
        app(standalone_mode=False)
    except GraphiteError as error:
        print(error, file=sys.stderr)
        sys.exit(2)
    except typer.Abort:
        sys.exit(130)
    except TyperException as error:
        print(getattr(error, "format_message", error.__str__)().replace("\n", " "), file=sys.stderr)
        sys.exit(2)
    except MemoryError:
        print("There was not enough memory for this; choose a lower resolution or hide parts.", file=sys.stderr)
        sys.exit(2)
    except Exception as error:
        if os.environ.get("WARMGRAPHITE_TRACE"):
            raise
        print(f"A fault of ours stopped this ({type(error).__name__}: {error}); nothing was written.", file=sys.stderr)
        sys.exit(1)


if __name__ == "__main__":
    main()
