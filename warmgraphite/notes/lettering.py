"""How a finish letters its notes: face, size, leaders, numbers, and the themes that have colours of their own."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from warmgraphite.forms import number, setting, share
from warmgraphite.specification import Colour, Specification, Words

__all__ = ["FACE_NAMES", "LEAST_LETTERING", "End", "Lettering", "Theme", "Units", "measure"]

#: Millimetres of capital height below which lettering is not read in print (ISO 3098 begins there).
LEAST_LETTERING = 1.8

End = Literal["dot", "arrow", "tick", "none"]
Units = Literal["m", "cm", "mm"]
FACE_NAMES: dict[str, str] = {"hand": "a hand", "italic": "an italic", "sans": "a plain face", "serif": "a serif"}


class Theme(Specification):
    """What several notes are about, in one colour."""

    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    name: Words = Field(min_length=1, max_length=60)
    colour: Colour


_THEMES = (
    Theme(id="sun", name="Sun and light", colour="#b9781f"),
    Theme(id="warm", name="Warm air", colour="#b2472a"),
    Theme(id="cool", name="Cool air", colour="#41768c"),
    Theme(id="water", name="Water", colour="#3d6f86"),
    Theme(id="people", name="People", colour="#5f7452"),
)


class Lettering(Specification):
    """``face`` is one that ships with the application, or that of a file of one's own by its digest.
    ``size`` is the height of capitals in millimetres; ``angle`` is that of all leaders, in degrees from the level.
    """

    face: str = Field(default="sans", pattern=r"^(hand|italic|sans|serif|own-[0-9a-f]{16,64})$", title="Face")
    size: float = number(1.8, "Capitals", "Height of capitals on paper.", low=0.5, high=30, unit="mm", most=6)
    angle: float = number(
        60.0, "Leaders at", "From the level; the mirror image of it is the only other.", low=20, high=80, unit="°"
    )
    end: End = setting("dot", "Leaders end in a")
    weight: float = number(0.13, "Line", low=0.03, high=1.5, unit="mm", most=0.5)
    ground: float = share(0.72, "Paper behind texts", "So that they are read over what is drawn.")
    units: Units = setting("m", "Measures in")
    digits: Annotated[int, Field(ge=0, le=3)] = setting(2, "Figures after the point", ge=0, le=3)
    themes: tuple[Theme, ...] = Field(default=_THEMES, max_length=24)

    @field_validator("themes")
    @classmethod
    def _one_of_each(cls, rows: tuple[Theme, ...]) -> tuple[Theme, ...]:
        if len({t.id for t in rows}) != len(rows):
            raise ValueError("two themes have the same id")
        return rows


def measure(metres: float, units: Units, digits: int) -> str:
    """A length as it is written.
    In metres with so many figures, in centimetres with millimetres raised, or in whole millimetres.
    """
    if units == "mm":
        return f"{metres * 1000:.0f}"
    if units == "cm":
        whole, rest = divmod(round(metres * 1000), 10)
        return f"{whole}^{rest}" if rest else str(whole)
    return f"{metres:.{digits}f}"
