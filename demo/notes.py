"""What is written on the plates of the sample study, and the rooms that its model has."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import TypeAdapter

from warmgraphite.model.model import Room
from warmgraphite.notes.kinds import AnyNote
from warmgraphite.notes.note import Note

__all__ = ["sample_notes", "sample_rooms"]

_NOTES: TypeAdapter[Any] = TypeAdapter(tuple[AnyNote, ...])


def sample_rooms() -> tuple[Room, ...]:
    """The rooms of the kiln house, which its script knows: names, numbers, places on their floors, areas."""
    return (
        Room("Kiln hall", "1", "Hall", (9.5, 5.6, 0.0), 97.0),
        Room("Clay and workbenches", "2", "Hall", (14.7, 5.4, 0.0), 50.4),
        Room("Throwing room", "3", "Throwing room", (22.2, 4.1, 0.0), 47.6),
        Room("Court", "4", "Throwing room", (21.9, 8.0, 0.0), 14.6),
        Room("Kiln", "5", "Kiln", (3.6, 3.0, 0.35), 8.6),
        Room("Glaze store", "6", "Below", (14.0, 5.4, -3.1), 31.5),
        Room("Deck", "7", "Deck", (18.0, -3.6, -0.1), 62.0),
        Room("Gallery", "8", "Hall", (5.0, 8.0, 2.9), 24.0),
    )


def _layer(text: str, layer: str, at: tuple[float, float, float], **more: Any) -> dict[str, Any]:
    return {"kind": "label", "text": text, "layer": layer, "at": at, **more}


def _label(text: str, at: tuple[float, float, float], **more: Any) -> dict[str, Any]:
    return {"kind": "label", "text": text, "at": at, **more}


def sample_notes() -> dict[str, Sequence[Note]]:
    """The notes of each saved view, by its name."""
    x = 5.88
    said: dict[str, list[dict[str, Any]]] = {
        "Long section, perspective": [
            {"kind": "air", "sort": "warm",
                "points": [(7.62, 4.0, 6.6), (7.74, 4.0, 9.2), (7.6, 4.0, 12.4), (8.2, 4.0, 14.6)], "text": ""},
            _label("what the kiln gives off", (8.0, 4.0, 12.6), put=(-40, -112), theme="warm"),
            _label("flue", (7.0, 4.0, 8.6), put=(-112, -78)),
            _label("throwing room,\nglass to the court", (24.2, 4.0, 3.1), put=(112, -22)),
            _label("glaze store", (17.1, 4.0, -1.6), put=(92, 92)),
        ],
        "Cross section 1:50": [
            _layer("standing-seam zinc\non boards, 30 mm", "Metal on boards", (x, 1.2, 6.6)),
            _layer("cavity, 40 mm", "Cavity", (x, 1.6, 6.7)),
            _layer("insulation, 200 mm,\nfrom wall to roof", "Insulation", (x, 0.0, 3.6)),
            _layer("larch boards, 28 mm", "Boards", (x, -0.15, 2.9)),
            _layer("lining, 20 mm", "Lining", (x, 2.4, 6.3), side="right"),
            _layer("blocks, 175 mm", "Blocks", (x, 9.6, 3.6)),
            _layer("screed, 60 mm", "Screed", (x, 7.0, 0.0)),
            _layer("concrete, 230 mm", "Concrete", (x, 1.0, -0.25)),
            _layer("rigid insulation, 120 mm", "Rigid insulation", (x, 2.0, -0.4)),
            _layer("gravel bed", "Gravel bed", (x, 8.0, -0.55)),
            _label("barrel vault,\nfire brick", (x, 3.0, 2.9)),
            _label("trussed rafters,\nlarch", (7.0, 6.4, 5.35)),
            {"kind": "levels", "stands": "left", "away": 14.0, "storeys": False,
                "heights": [{"name": "Hall", "at": (0, 0, 0)}, {"name": "Gallery", "at": (0, 0, 2.95)},
                    {"name": "Ridge", "at": (0, 0, 7.3)}]},
            {"kind": "dimension", "measures": "level",
                "points": [(x, 10.0, -0.2), (x, 9.35, -0.2), (x, 0.0, -0.2), (x, -0.35, -0.2)], "away": -26.0,
                "total": False},
            {"kind": "legend"},
        ],
        "Plan": [
            {"kind": "rooms", "numbers": True},
            {"kind": "section-marks"},
            {"kind": "stair-arrows"},
            {"kind": "grid", "ends": "first", "through": False, "axes": [
                {"name": "1", "start": (0, 9.35, 0), "end": (0, 0, 0)},
                {"name": "2", "start": (6.17, 9.35, 0), "end": (6.17, 0, 0)},
                {"name": "3", "start": (11.55, 9.35, 0), "end": (11.55, 0, 0)},
                {"name": "4", "start": (17.67, 9.35, 0), "end": (17.67, 0, 0)},
                {"name": "5", "start": (25.9, 9.35, 0), "end": (25.9, 0, 0)},
                {"name": "A", "start": (0, 9.1, 0), "end": (26, 9.1, 0)},
                {"name": "B", "start": (0, 0.02, 0), "end": (26, 0.02, 0)},
            ]},
        ],
        "Street elevation": [
            {"kind": "levels", "stands": "left", "away": 4.0, "storeys": False,
                "heights": [{"name": "Eaves", "at": (0, 9, 4.0)}]},
        ],
        "Cutaway axonometric": [
            {"kind": "levels", "stands": "left", "away": 12.0, "ground": False, "storeys": False, "top": False,
                "heights": [{"name": "Glaze store", "at": (0, 0, -3.1)}, {"name": "Hall", "at": (0, 0, 0)},
                    {"name": "Gallery", "at": (0, 0, 2.95)}, {"name": "Roof", "at": (0, 0, 7.3)}]},
            {"kind": "sun", "put": (146, 74)},
            _label("kiln", (4.3, 4.0, 2.7), side="right"),
            _label("workbenches under the gallery", (13.6, 5.0, 1.0), side="right"),
            _label("throwing room", (22.0, 4.6, 1.2), side="right"),
            _label("glaze store", (15.5, 5.0, -2.0), side="right"),
        ],
        "From the pond": [
            {"kind": "text", "lies": "paper", "points": [(-186, 100, 0)],
                "text": "the deck stands on larch posts\nin the mill pond", "size": 2.4},
        ],
    }  # fmt: skip
    return {name: _NOTES.validate_python(rows) for name, rows in said.items()}
