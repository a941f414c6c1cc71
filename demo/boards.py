"""The board of the sample study: an A1 sheet that one would hang up."""

from __future__ import annotations

from warmgraphite.board.specification import Board, BoardText, Module, Page, PlacedDrawing, TitleBlock, TitleRow

__all__ = ["sample_boards"]

_ABOUT = (
    "A pottery and its kiln hall, set into the slope above a mill pond. Retaining walls hold the street back; a "
    "clerestory lights the throwing floor, "
    "and what the kiln gives off warms the gallery over it."
)


def _box(left: float, top: float, right: float, bottom: float) -> tuple[tuple[float, float], ...]:
    return (left, top), (right, top), (right, bottom), (left, bottom)


def sample_boards() -> tuple[Board, ...]:
    """One board of the sample's saved views, which are called view-1 and so on in their order."""
    page = Page(width=841, height=594, colour="#fbf8f1", module=Module(columns=12, rows=8, gutter=6, margin=18))
    drawings = (
        PlacedDrawing(id="long", view="view-1", at=(12, 2), frame=_box(6, 40, 412, 288)),
        PlacedDrawing(id="pond", view="view-6", at=(418, 2), frame=_box(10, 40, 405, 288), notes=False),
        PlacedDrawing(id="plan", view="view-3", at=(-18, 290), frame=_box(36, 52, 392, 232)),
        PlacedDrawing(id="street", view="view-4", at=(336, 346), frame=_box(58, 8, 334, 146)),
        PlacedDrawing(
            id="across", view="view-2", scale=100, at=(638, 390), line_y="street", frame=_box(32, 2, 184, 142),
            notes=False,
            caption="B  Cross section, 1:100",
        ),
    )  # fmt: skip
    texts = (
        BoardText(id="name", at=(18, 18), text="Alder Weir Kiln House", face="serif", size=9.5),
        BoardText(id="about", at=(616, 18), text=_ABOUT, face="italic", size=3.0, wide=207, colour="#5a534c"),
    )
    rows = (
        TitleRow(label="Project", text="{study}"), TitleRow(label="Board", text="{board}"),
        TitleRow(label="Scales", text="{scales}"),
        TitleRow(label="Stage", text="Design"), TitleRow(label="Date", text="{date}"),
        TitleRow(label="Page", text="{page} of {pages}"),
    )  # fmt: skip
    return (
        Board(
            id="board-1",
            name="Kiln house, A1",
            page=page,
            drawings=drawings,
            texts=texts,
            block=TitleBlock(rows=rows, size=2.6),
        ),
    )
