"""The finishes of the sample study: those that ship, with what its parts are built of.
And which of its views wears which.
"""

from __future__ import annotations

from warmgraphite.study import Look
from warmgraphite.study.kit import construction, shipped_finishes

__all__ = ["BUILT", "WORN", "sample_finishes"]

#: What saved views wear that do not wear the usual finish.
WORN = {
    "Long section, perspective": "Warm wash",
    "Cross section 1:50": "Construction",
    "Plan": "Ink plan",
    "Street elevation": "Graphite",
    "Cutaway axonometric": "Night sheet",
    "From the pond": "Collage",
}
#: What its parts are built of.
BUILT = {
    "ground-floor": ["Hall/Floor/*", "Throwing room/Throwing floor", "Below/Glaze store/Store floor"],
    "retaining-wall": ["Hall/Retaining/*", "Below/Glaze store/Store wall *"],
    "boarded-wall": ["Hall/Walls/North upper wall", "Hall/Walls/South wall", "Hall/Walls/West gable",
        "Hall/Walls/East gable"],
    "seamed-roof": ["Hall/Roof/North roof", "Hall/Roof/South roof"],
    "gravel-roof": ["Throwing room/Throwing roof"],
    "stud-partition": ["Hall/Walls/Store partition"],
}  # fmt: skip


def sample_finishes() -> dict[str, Look]:
    """All of them, by name."""
    return shipped_finishes() | {"Construction": construction(BUILT)}
