"""What is written on a sheet: the notes of the view, and title, scale bar and north point in the bottom margin."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from warmgraphite.canvas.protocol import Canvas, Stroke
from warmgraphite.collage.kinds.paper import Paper
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.colour import is_light
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.memory import Store
from warmgraphite.needs import Need
from warmgraphite.notes.laid import LaidNotes, draw_laid, lay_notes
from warmgraphite.notes.setting import Inks
from warmgraphite.sheet.specification import Sheet
from warmgraphite.view.projection import Projection
from warmgraphite.view.scales import scale_label

__all__ = ["Inks", "draw_notes", "inks_for", "laid_notes", "said_of", "scale_bar_length"]


#: What is read on a pale sheet, and on a dark one.
ON_PAPER, ON_DARK = Inks(), Inks("#f0e9dc", "#b9b2a6", "#27323a")


def inks_for(traces: Sequence[Trace]) -> Inks:
    """What is read on the lowest sheet of paper among the traces."""
    paper = next((t for t in traces if t.on and isinstance(t, Paper) and t.lies != "over all"), None)
    if paper is None:
        return ON_PAPER
    return replace(ON_DARK if not is_light(paper.colour) else ON_PAPER, paper=paper.colour)


_NICE = (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000)


def scale_bar_length(scale: float, room: float = 70.0) -> float:
    """The longest round length in metres whose bar at 1:``scale`` fits ``room`` millimetres."""
    fitting = [n for n in _NICE if n * 1000 / scale <= room]
    return fitting[-1] if fitting else room * scale / 1000


def _metres(value: float) -> str:
    return f"{value:g}"


def _scale_bar(canvas: Canvas, x: float, y: float, scale: float, inks: Inks) -> float:
    """A bar whose left end is at x, alternately filled; returns its right end."""
    total = scale_bar_length(scale)
    length = total * 1000 / scale
    steps = 5 if str(total).strip("0.")[:1] in ("1", "5") else 4
    thick = 1.1
    with canvas.group("scale bar"):
        for i in range(steps):
            a, b = x + length * i / steps, x + length * (i + 1) / steps
            top = y - thick if i % 2 == 0 else y - thick / 2
            ring = np.array([(a, top), (b, top), (b, top + thick / 2), (a, top + thick / 2), (a, top)])
            canvas.fill([ring], inks.ink)
        canvas.stroke(
            [np.array([(x, y - thick), (x + length, y - thick), (x + length, y), (x, y), (x, y - thick)])],
            Stroke(0.13, inks.ink),
        )
        for value in (0.0, total / 2, total):
            at = x + value * 1000 / scale
            words = _metres(value) + (" m" if value == total else "")
            canvas.text(at, y - thick - 1.0, words, "sans", 2.6, inks.soft, "middle")
    return x + length


def _north(canvas: Canvas, x: float, y: float, projection: Projection, inks: Inks) -> None:
    """A plan dial: on a drawing that shows the ground, north as it lies there.
    Else the direction of sight, north up.
    """
    radius = 3.6
    turn = np.linspace(0, 2 * np.pi, 49)
    ring = np.column_stack([x + radius * np.cos(turn), y + radius * np.sin(turn)])
    with canvas.group("north point"):
        canvas.stroke([ring], Stroke(0.18, inks.ink))
        flat = projection.matrix[:2, 1].copy()  # where +Y goes on the paper
        lies = projection.eye is None and abs(projection.sight[2]) > 0.3
        north = flat / np.linalg.norm(flat) if lies else np.array([0.0, -1.0])
        side = np.array([-north[1], north[0]])
        centre = np.array([x, y])
        tip, tail = centre + north * radius * 1.35, centre - north * radius * 0.62
        canvas.fill([np.array([tip, tail + side * 1.25, centre - north * radius * 0.3, tip])], inks.ink)
        canvas.stroke([np.array([tip, tail - side * 1.25, centre - north * radius * 0.3, tip])], Stroke(0.13, inks.ink))
        canvas.text(
            tip[0] + north[0] * 1.6,
            tip[1] + north[1] * 1.6 + (0.9 if north[1] > -0.5 else 0),
            "N",
            "serif",
            2.8,
            inks.ink,
            "middle",
        )
        level = projection.sight[:2]
        if not lies and np.linalg.norm(level) > NEAR:
            sight = np.array([level[0], -level[1]]) / np.linalg.norm(level)
            across = np.array([-sight[1], sight[0]])
            head = centre + sight * (radius - 0.4)
            canvas.stroke(
                [np.array([head - sight * 1.6 + across * 0.9, head, head - sight * 1.6 - across * 0.9])],
                Stroke(0.25, "#b2472a"),
            )


def laid_notes(plate: Plate, sheet: Sheet, inks: Inks = ON_PAPER) -> LaidNotes:
    """The notes of a plate in their places.
    They are kept for a while: the picture shows them, and whoever takes hold of them asks where they are.
    """
    if not plate.notes:
        return LaidNotes(())
    key = json.dumps([said_of(plate), sheet.margin, vars(inks), plate.projection.matrix.tolist(), plate.frame])

    def lay() -> LaidNotes:
        return lay_notes(plate.with_results(_needs(plate)), plate.notes, plate.lettering, inks, sheet.margin)

    return _laid.get(key, lay)


_laid: Store[LaidNotes] = Store("notes")


def _needs(plate: Plate) -> list[Need]:
    """The passes that its notes are made of."""
    return sorted({n for note in plate.notes if note.on for n in note.needs()}, key=lambda n: n.words)


def said_of(plate: Plate) -> list[object]:
    """All that the notes and the title of a plate are made of."""
    if not plate.notes:
        return [plate.view_name]
    needs = _needs(plate)
    said = (
        [n.model_dump(mode="json") for n in plate.notes],
        plate.lettering.model_dump(),
        plate.view.model_dump(mode="json"),
    )
    ink = plate.ink.hand.model_dump(mode="json"), [b.model_dump(mode="json") for b in plate.ink.build_ups]
    return [*said, *ink, plate.model.version, [plate.key(n) for n in needs]]


def draw_notes(canvas: Canvas, plate: Plate, sheet: Sheet, inks: Inks = ON_PAPER) -> None:
    """Draw the notes of the view, and what ``sheet`` asks for in the bottom margin.
    Title left, scale bar and north point right.

    A perspective has no one scale, so its bar is left out whatever the sheet says, unless it is drawn to scale on one
    plane.
    """
    projection, view_name, study_name = plate.projection, plate.view_name, plate.study_name
    draw_laid(canvas, laid_notes(plate, sheet, inks))
    left = max(sheet.margin, 8.0)
    right = projection.width - left
    base = projection.height - max(sheet.margin / 2 - 2.2, 3.2)
    if sheet.title_on:
        with canvas.group("title"):
            canvas.text(left, base - 3.6, sheet.title or view_name, "serif", 4.6, inks.ink)
            scale = scale_label(projection.scale) if projection.scale else "perspective"
            if projection.scale and projection.is_perspective:
                scale = f"perspective, the cut {scale}"
            canvas.text(
                left,
                base + 0.6,
                " · ".join(w for w in (sheet.subtitle or study_name, scale) if w),
                "sans",
                2.9,
                inks.soft,
            )
    if sheet.north_on:
        _north(canvas, right - 4.0, base - 2.4, projection, inks)
        right -= 16.0
    if sheet.scale_bar_on and projection.scale:
        _scale_bar(
            canvas, right - scale_bar_length(projection.scale) * 1000 / projection.scale, base, projection.scale, inks
        )
