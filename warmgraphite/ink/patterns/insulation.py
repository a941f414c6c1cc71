"""Soft insulation: a wave that goes from one side of its layer to the other, whatever way the layer runs."""

from __future__ import annotations

from warmgraphite.ink.layer import wave_across
from warmgraphite.ink.pattern import Pattern

PATTERN = Pattern(
    name="insulation", label="Soft insulation", spacing=2.2, metres=0.08, group="layers", across=wave_across,
)  # fmt: skip
