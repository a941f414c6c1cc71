"""Earth: patches of three strokes that lean to either side, as a spade leaves them, closest under the surface."""

from __future__ import annotations

from warmgraphite.ink.pattern import Mark, Pattern, Scatter


def _patch(lean: float, length: float, parts: int) -> Mark:
    """A stroke of a patch."""
    off = (parts - 1) * 0.3
    return (
        (-0.5 * length * lean + off, 0.5 * length - 0.5 * off),
        (0.5 * length * lean + off, -0.5 * length - 0.5 * off),
    )


PATTERN = Pattern(
    name="earth", label="Earth", spacing=2.1, metres=0.1, group="earth and stone",
    scatters=(
        Scatter(marks=tuple(_patch(1.0, n, 1) for n in (0.9, 1.3, 0.6)), turn=9.0, vary=0.4, sinks=17.0, apart=0.62),
        Scatter(marks=tuple(_patch(-0.8, n, 1) for n in (0.7, 1.0)), turn=12.0, vary=0.4, sinks=9.0, apart=1.2, seed=1),
        Scatter(marks=(((0.0, 0.0),),), sinks=24.0, apart=1.3, seed=2),
    ),
)  # fmt: skip
