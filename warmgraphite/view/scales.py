"""The scales that drawings are issued at: one table, by which a scale is offered, chosen for a drawing, and written."""

from __future__ import annotations

from typing import Literal, NamedTuple

__all__ = ["SCALES", "USUAL", "TradeScale", "scale_label"]

System = Literal["metric", "feet and inches"]


class TradeScale(NamedTuple):
    """``n`` of 1:n, how it is written, and in which system.
    A ``usual`` one is chosen where a view leaves its scale open.
    """

    n: float
    label: str
    system: System
    usual: bool = False


_USUAL = (1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 500, 1000, 1250, 2000, 2500, 5000, 10000, 20000, 50000)
_BETWEEN = (75, 125, 300, 400, 750, 1500)
_IMPERIAL = {
    1: "full size", 2: "6″ = 1′-0″", 4: "3″ = 1′-0″", 8: "1½″ = 1′-0″", 12: "1″ = 1′-0″", 16: "¾″ = 1′-0″",
    24: "½″ = 1′-0″",
    32: "⅜″ = 1′-0″", 48: "¼″ = 1′-0″", 64: "3/16″ = 1′-0″", 96: "⅛″ = 1′-0″", 128: "3/32″ = 1′-0″",
    192: "1/16″ = 1′-0″",
    120: "1″ = 10′", 240: "1″ = 20′", 360: "1″ = 30′", 480: "1″ = 40′", 600: "1″ = 50′", 720: "1″ = 60′",
    1200: "1″ = 100′",
    2400: "1″ = 200′",
}  # fmt: skip

#: All of them, each system from the largest drawing to the smallest.
SCALES: tuple[TradeScale, ...] = (
    *(TradeScale(float(n), f"1:{n}", "metric", n in _USUAL) for n in sorted((*_USUAL, *_BETWEEN))),
    *(TradeScale(float(n), label, "feet and inches") for n, label in sorted(_IMPERIAL.items())),
)
#: n of those that are chosen without being asked for.
USUAL: tuple[float, ...] = tuple(s.n for s in SCALES if s.usual)


def scale_label(scale: float) -> str:
    """How a scale is written: in metres where the trade has that one, else in feet and inches, else as it is."""
    return next((s.label for s in SCALES if s.n == scale), f"1:{scale:g}")
