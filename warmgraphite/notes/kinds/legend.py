"""The legend of materials: what hatches and tones in the cut mean."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.canvas.protocol import Stroke
from warmgraphite.forms import number, setting
from warmgraphite.ink.filled import Filled
from warmgraphite.ink.fills import Flat
from warmgraphite.ink.poche import PocheShape, hatched_shape
from warmgraphite.ink.work import Work, hatch_work
from warmgraphite.memory import Store
from warmgraphite.needs import Need
from warmgraphite.notes.note import Drawn, Handle, Note, Offset, Spot
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Inked, Line

__all__ = ["MaterialLegend"]


#: Swatches are the same while other notes are moved.
_drawn: Store[Work] = Store("notes")


class MaterialLegend(Note):
    """A swatch of each fill that is in use where something is cut, with its name.
    It stands where it was ``put``, or in a free corner.
    """

    label: ClassVar[str] = "Legend of materials"
    sign: ClassVar[str] = "M3 3h5v3H3zM3 9h5v3H3zM11 4.5H17M11 10.5H17M3 6L8 3M3 12L8 9"
    rank: ClassVar[int] = 5
    patched: ClassVar[bool] = False

    kind: Literal["legend"] = "legend"
    layers: bool = setting(True, "Layers of build-ups, too")
    wide: float = number(12.0, "Swatches", low=3, high=80, unit="mm", most=30)
    put: Offset | None = Field(default=None, json_schema_extra={"hidden": True})

    def needs(self) -> tuple[Need, ...]:
        return (Need("poche"), *((Need("built"),) if self.layers else ()))

    def rows(self, there: Setting) -> list[tuple[str, Filled]]:
        """Names with what they are filled with, in the order of how much there is."""
        sizes: dict[str, float] = {}
        found: dict[str, Filled] = {}
        names: dict[str, list[str]] = {}
        for name in ("poche", *(("built",) if self.layers else ())):
            for row in there.plate.results[Need(name)]:
                called = row.group.removeprefix("poche ")
                if not row.fills or not row.group.startswith("poche "):
                    continue
                # What is filled alike is explained once.
                alike = " ".join(f.model_dump_json() for f in row.fills) + str(row.shape.earth)
                sizes[alike] = sizes.get(alike, 0.0) + sum(_area(ring) for ring in row.shape.rings)
                found.setdefault(alike, row)
                if called not in names.setdefault(alike, []):
                    names[alike].append(called)
        order = sorted(found, key=lambda n: -sizes[n])[:24]
        return [(_listed(names[n]), found[n]) for n in order]

    def taken_to(self, index: int, spot: Spot, there: Setting) -> Note:
        return self.model_copy(update={"put": spot.flat})

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        rows = self.rows(there)
        if not rows:
            out.told = "Nothing is cut here, so there is nothing to explain."
            return out
        size, colour = there.capitals(self.size), there.colour(self.theme)
        high = max(self.wide * 0.42, size * 1.3)
        step = high + size * 0.75
        texts = [there.block(name, self.size) for name, _ in rows]
        wide = self.wide + size + max(t.wide for t in texts)
        tall = step * len(rows)
        if self.put is None:
            x, y = there.corner(wide, tall)
        else:
            x, y = self.put[0] + there.plate.middle[0], self.put[1] + there.plate.middle[1]
        for k, ((_, row), text) in enumerate(zip(rows, texts, strict=True)):
            top = y + k * step
            ring = np.array([(x, top), (x + self.wide, top), (x + self.wide, top + high), (x, top + high), (x, top)])
            self._swatch(there, row, ring, out)
            out.marks.append(Line(ring, Stroke(0.13, colour)))
            out.marks += text.at(x + self.wide + size, top + high / 2 - size / 2, colour)
        out.boxes.append((x, y, x + wide, y + tall))
        out.handles.append(Handle(-1, (x, y)))
        return out

    def _swatch(self, there: Setting, row: Filled, ring: np.ndarray, out: Drawn) -> None:
        """A piece of a fill, as large on the paper as in the drawing."""
        for fill in row.fills:
            if isinstance(fill, Flat):
                out.marks.append(Area([ring], fill.colour, fill.opacity))
        plane = np.eye(3) if row.shape.plane is None else row.shape.plane
        said = (
            tuple(f.model_dump_json() for f in row.fills),
            ring.tobytes(),
            plane.tobytes(),
            there.plate.middle,
            there.plate.ink.hand.model_dump_json(),
            there.frame,
        )

        def drawn() -> Work:
            shape = PocheShape(row.shape.material, row.shape.part, row.shape.cut, False, row.shape.level, plane, [ring])
            return hatch_work(
                hatched_shape(shape, row.fills, there.plate.projection, there.plate.middle), there.plate.ink.hand
            )

        out.marks.append(Inked(_drawn.get(said, drawn)))


def _listed(names: list[str]) -> str:
    """Names in a row, the first as it is written, no more than four."""
    rest = [n[:1].lower() + n[1:] for n in names[1:4]]
    return ", ".join([names[0], *rest]) + (" …" if len(names) > 4 else "")


def _area(ring: np.ndarray) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return float(abs(np.dot(x, np.roll(y, 1)) - np.dot(y, np.roll(x, 1))) / 2)
