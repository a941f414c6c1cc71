"""What a board says: its page and pages, what stands on them and where, in millimetres from a page's left and top."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal, TypeAlias

from pydantic import Field, field_validator, model_validator

from warmgraphite.errors import OutputError
from warmgraphite.specification import Colour, Specification, Words

__all__ = [
    "Board",
    "BoardPicture",
    "BoardText",
    "Module",
    "Page",
    "PlacedDrawing",
    "TitleBlock",
    "TitleRow",
    "with_board_ids",
]

Length = Annotated[float, Field(ge=-10_000, le=10_000, allow_inf_nan=False)]
Place: TypeAlias = tuple[Length, Length]
Identity = Annotated[str, Field(pattern=r"^([a-z0-9-]{1,40})?$")]
FaceName = Annotated[str, Field(pattern=r"^(hand|italic|sans|serif|own-[0-9a-f]{16,64})$")]


class Module(Specification):
    """The module grid of a page, by which things are put in line; it is not printed."""

    columns: int = Field(default=12, ge=1, le=60)
    rows: int = Field(default=8, ge=1, le=60)
    gutter: float = Field(default=6.0, ge=0, le=200)
    margin: float = Field(default=15.0, ge=0, le=500)


class Page(Specification):
    """The page, which all pages of a board are like.
    ``width`` and ``height`` in millimetres, and the colour of its paper.
    """

    width: float = Field(default=841.0, ge=20, le=5000)
    height: float = Field(default=594.0, ge=20, le=5000)
    colour: Colour = "#fbf8f1"
    module: Module = Module()


class PlacedDrawing(Specification):
    """A drawing on a page.
    A saved ``view`` of the study, in its own finish or another, at its own ``scale`` 1:n or another; or a ``drawing``
    (its own text, or the name of a file beside that of the board) of a ``model``.

    ``at`` is where the corner of its frame lies. ``frame`` cuts it to a shape, by points in millimetres of the drawing;
    all of it is shown where there are fewer than three. It keeps in line with another drawing whose id is in ``line_x``
    or ``line_y``: there its place is that of the other's axes, or levels. ``paper`` is whether it brings its own;
    ``lift`` is how much its darks are opened for print on this board, 0 to 1, and ``black`` how light the darkest is
    then.
    """

    id: Identity = ""
    page: int = Field(default=1, ge=1, le=200)
    view: str = Field(default="", max_length=60)
    finish: str = Field(default="", max_length=40)
    scale: float | None = Field(default=None, gt=0, le=1e6)
    drawing: dict[str, Any] | str | None = None
    model: str = Field(default="", max_length=1000)
    at: Place = (0.0, 0.0)
    frame: tuple[Place, ...] = Field(default=(), max_length=400)
    line_x: Identity = ""
    line_y: Identity = ""
    paper: Literal["auto", "own", "none"] = "auto"
    outline: float = Field(default=0.0, ge=0, le=5)
    caption: Words = Field(default="", max_length=200)
    caption_on: bool = True
    notes: bool = True
    furniture: bool = False
    lift: float = Field(default=0.0, ge=0, le=1)
    black: float = Field(default=0.0, ge=0, le=0.5)


class BoardText(Specification):
    """Text on a page: ``at`` is the left end of its first line's capitals, at their top.
    Fields in braces are filled as in a title block.
    """

    id: Identity = ""
    page: int = Field(default=1, ge=0, le=200)
    at: Place = (0.0, 0.0)
    text: str = Field(default="", max_length=6000)
    face: FaceName = "sans"
    size: float = Field(default=3.5, ge=0.5, le=200)
    wide: float = Field(default=0.0, ge=0, le=5000)
    colour: Colour = "#2e2a27"
    aligned: Literal["start", "middle", "end"] = "start"


class BoardPicture(Specification):
    """A picture of the stock on a page, ``width`` millimetres wide."""

    id: Identity = ""
    page: int = Field(default=1, ge=0, le=200)
    picture: str = Field(pattern=r"^[0-9a-f]{16,64}$")
    at: Place = (0.0, 0.0)
    width: float = Field(default=60.0, gt=0.5, le=5000)


class TitleRow(Specification):
    """A row of the title block: what is asked, and what stands there; fields in braces are filled from the study."""

    label: Words = Field(default="", max_length=40)
    text: Words = Field(default="", max_length=200)


_ROWS = (
    TitleRow(label="Project", text="{study}"), TitleRow(label="Sheet", text="{board}"),
    TitleRow(label="Scale", text="{scales}"),
    TitleRow(label="Date", text="{date}"), TitleRow(label="Page", text="{page} of {pages}"),
)  # fmt: skip


class TitleBlock(Specification):
    """The title block, alike on all pages: rows in a table at a corner, or in a strip along the foot."""

    on: bool = True
    shape: Literal["table", "strip"] = "strip"
    width: float = Field(default=150.0, ge=20, le=2000)
    size: float = Field(default=2.5, ge=0.8, le=40)
    face: FaceName = "sans"
    rows: tuple[TitleRow, ...] = Field(default=_ROWS, max_length=20)


class Board(Specification):
    """A board: its page, how many ``pages`` it has, and what stands on them.
    What stands on page 0 stands on all of them.
    """

    id: str = Field(default="board-1", pattern=r"^[a-z0-9-]{1,40}$")
    name: Words = Field(default="Board", min_length=1, max_length=120)
    page: Page = Page()
    pages: int = Field(default=1, ge=1, le=200)
    drawings: tuple[PlacedDrawing, ...] = Field(default=(), max_length=200)
    texts: tuple[BoardText, ...] = Field(default=(), max_length=500)
    pictures: tuple[BoardPicture, ...] = Field(default=(), max_length=200)
    block: TitleBlock = TitleBlock()
    numbers: bool = False

    def refuse_page(self, number: int) -> None:
        """Raises :class:`OutputError` for a page that there is not."""
        if not 1 <= number <= self.pages:
            pages = "page" if self.pages == 1 else "pages"
            raise OutputError(f"“{self.name}” has {self.pages} {pages}, and none of number {number}.")

    @field_validator("drawings", "texts", "pictures")
    @classmethod
    def _known(cls, rows: tuple[Any, ...]) -> tuple[Any, ...]:
        return with_board_ids(rows)

    @model_validator(mode="after")
    def _in_order(self) -> Board:
        ids = [r.id for rows in (self.drawings, self.texts, self.pictures) for r in rows]
        if len(set(ids)) != len(ids):
            raise ValueError("two things on the board have the same id")
        last = max([0, *(r.page for rows in (self.drawings, self.texts, self.pictures) for r in rows)])
        if last > self.pages:
            raise ValueError(f"something stands on page {last}, and there are {self.pages}; add pages, or move it")
        for row in self.drawings:
            seen, other = {row.id}, row
            for way in ("line_x", "line_y"):
                other = row
                seen = {row.id}
                while (to := getattr(other, way)) and (found := next((d for d in self.drawings if d.id == to), None)):
                    if to in seen:
                        raise ValueError(
                            f"the drawings “{row.id}” and “{to}” are each to keep in line with the other; let one of "
                            f"them stand by itself"
                        )
                    seen.add(to)
                    other = found
        return self


def with_board_ids(rows: Sequence[Any]) -> tuple[Any, ...]:
    """Things of one kind on a board, each with an id: those that have none are numbered."""
    words: dict[type, str] = {PlacedDrawing: "drawing", BoardText: "text", BoardPicture: "picture"}
    word = words.get(type(rows[0]), "thing") if rows else ""
    taken = {r.id for r in rows}
    free = (f"{word}-{k}" for k in range(1, 2 * len(rows) + 2) if f"{word}-{k}" not in taken)
    return tuple(r if r.id else r.model_copy(update={"id": next(free)}) for r in rows)
