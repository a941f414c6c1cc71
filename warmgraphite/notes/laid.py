"""All notes of a plate, laid out and drawn.
What comes from the model first, then labels where there is room, then the key.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from warmgraphite.canvas.lettering import missing_in
from warmgraphite.canvas.protocol import Canvas, Stroke
from warmgraphite.collage.plate import Plate
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.notes.labels import LabelSpace, Placed, place_labels
from warmgraphite.notes.lettering import LEAST_LETTERING, Lettering
from warmgraphite.notes.note import Drawn, Handle, Keyed, Note
from warmgraphite.notes.setting import Inks, Setting
from warmgraphite.notes.written import Area, Box, Line, Mark, Text, block, draw_marks, patch

__all__ = ["LaidNote", "LaidNotes", "draw_laid", "lay_notes"]

#: Millimetres that ends of leaders measure, in heights of capitals.
DOT, HEAD = 0.3, 1.1


@dataclass(frozen=True)
class LaidNote:
    """A note in its place: what it is drawn of, in groups with their names; the rooms of its texts.
    Where it is taken hold of; and what is not as one expects.
    """

    note: Note
    groups: tuple[tuple[str, tuple[Mark, ...]], ...]
    boxes: tuple[Box, ...]
    handles: tuple[Handle, ...]
    told: str = ""


@dataclass(frozen=True)
class LaidNotes:
    """All of them, the lowest first; and the key, where there is one."""

    notes: tuple[LaidNote, ...]
    key: LaidNote | None = None


def lay_notes(plate: Plate, notes: Sequence[Note], lettering: Lettering, inks: Inks, margin: float) -> LaidNotes:
    """The notes of a plate in their places."""
    shown = [n for n in notes if n.on]
    if not shown:
        return LaidNotes(())
    width, height = plate.frame
    edge = max(margin, 5.0) + 2.0
    numbers = tuple(n.id for n in shown if getattr(n, "numbered", False) is True)
    there = Setting(
        plate, lettering, inks, (edge, edge, width - edge, height - max(margin, 8.0) - 9.0), numbers=numbers
    )
    drawn: dict[str, Drawn] = {}
    # What has a place by itself comes first: labels and keys go round it.
    for note in sorted(shown, key=lambda n: n.rank):
        found = note.draw(there)
        drawn[note.id] = found
        there.taken.extend(found.boxes)
    asked = [a for n in shown for a in drawn[n.id].asked]
    keep = there.cut if asked else shapely.Polygon()
    placed = place_labels(asked, LabelSpace(there.inside, there.extent, there.taken, keep, lettering.angle))
    by_note: dict[str, list[Placed]] = {}
    for one in placed:
        by_note.setdefault(one.asked.id.split(" ")[0], []).append(one)
    there.taken.extend(p.box for p in placed)
    laid = tuple(_laid(n, drawn[n.id], by_note.get(n.id, []), there) for n in shown)
    keyed = [k for n in shown for k in drawn[n.id].keyed]
    return LaidNotes(laid, _key(keyed, there) if keyed else None)


def _laid(note: Note, drawn: Drawn, placed: Sequence[Placed], there: Setting) -> LaidNote:
    groups: list[tuple[str, tuple[Mark, ...]]] = []
    ground = there.lettering.ground if note.patched else 0.0
    behind = lambda boxes: [Area([patch(b, 0.9)], there.inks.paper, ground) for b in boxes] if ground > 0 else []
    if drawn.marks:
        groups.append((f"note {note.called}", (*behind(drawn.boxes), *drawn.marks)))
    boxes, handles, told = list(drawn.boxes), list(drawn.handles), [drawn.told] if drawn.told else []
    for one in placed:
        words = " ".join(one.asked.block.lines)
        groups.append((f"leader {words}", tuple(_leader(one, there))))
        groups.append((f"note {words}", (*behind([one.box]), *_lines(one))))
        boxes.append(one.box)
        handles.append(Handle(-1, (one.x, one.y)))
        if one.crowded:
            told.append("There is no room for it beside the drawing; move it, number it, or give the sheet more room.")
    size = there.capitals(note.size)
    texts = [m for _, marks in groups for m in marks if isinstance(m, Text)]
    if texts and size < LEAST_LETTERING - ROUNDING:
        told.append(f"Its capitals are {size:g} mm high; below {LEAST_LETTERING} mm they are not read in print.")
    missing = missing_in("".join(t.words for t in texts), there.face)
    if missing:
        several = len(missing) > 1
        told.append(
            f"{'The letters' if several else 'The letter'} “{missing[:12]}” {'are' if several else 'is'} not in this "
            f"face; choose another face, or write it otherwise."
        )
    return LaidNote(note, tuple(groups), tuple(boxes), tuple(handles), " ".join(told))


def _lines(one: Placed) -> list[Text]:
    """The lines of a label, aligned at the side that its leader comes from."""
    block = one.asked.block
    return (
        block.at(one.x, one.y, one.asked.colour)
        if one.side > 0
        else block.at(one.x + block.wide, one.y, one.asked.colour, "end")
    )


def _leader(one: Placed, there: Setting) -> list[Mark]:
    if len(one.leader) < 2:
        return []
    colour = one.asked.colour
    stroke = there.stroke(colour)
    size = one.asked.block.capitals
    tip, before = one.leader[-1], one.leader[-2]
    marks: list[Mark] = [Line(one.leader, stroke)]
    way = (tip - before) / max(float(np.linalg.norm(tip - before)), ROUNDING)
    across = np.array([-way[1], way[0]])
    if one.asked.end == "dot":
        turn = np.linspace(0, 2 * np.pi, 17)
        marks.append(Area([tip + DOT * size * np.column_stack([np.cos(turn), np.sin(turn)])], colour))
    elif one.asked.end == "arrow":
        head = HEAD * size
        marks.append(
            Area(
                [
                    np.array(
                        [tip, tip - way * head + across * head * 0.26, tip - way * head - across * head * 0.26, tip]
                    )
                ],
                colour,
            )
        )
    elif one.asked.end == "tick":
        slant = (way + across) / np.sqrt(2) * size * 0.5
        marks.append(Line(np.array([tip - slant, tip + slant]), Stroke(stroke.weight * 2, colour)))
    return marks


def _key(rows: Sequence[Keyed], there: Setting) -> LaidNote:
    """The key: what numbers and signs in the drawing mean, by theme, where there is room for it."""
    unique = list(dict.fromkeys(rows))
    order = [t.id for t in there.lettering.themes]
    unique.sort(key=lambda k: order.index(k.theme) if k.theme in order else -1)
    size = there.capitals(None)
    step = size * 1.9
    signs = max(block(k.sign, there.face, size).wide for k in unique) + size
    wide = signs + max(block(k.words, there.face, size).wide for k in unique)
    high = step * len(unique)
    x, y = there.corner(wide, high)
    marks: list[Mark] = []
    for number, row in enumerate(unique):
        top = y + number * step
        marks += block(row.sign, there.face, size).at(x, top, row.colour)
        marks += block(row.words, there.face, size).at(x + signs, top, there.inks.ink if not row.theme else row.colour)
    box = (x, y, x + wide, y + high)
    there.taken.append(box)
    return LaidNote(Note(id="key", name="Key"), (("note Key", tuple(marks)),), (box,), ())


def draw_laid(canvas: Canvas, laid: LaidNotes) -> None:
    """Draw all notes, each in groups with its name."""
    for row in (*laid.notes, *((laid.key,) if laid.key else ())):
        for name, marks in row.groups:
            with canvas.group(name):
                draw_marks(canvas, marks)
