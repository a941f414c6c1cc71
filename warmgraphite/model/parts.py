"""The parts of a model: what is said of each, and the same as columns that are asked of all at once."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, fields
from fnmatch import translate
from typing import Any, Literal, overload

import numpy as np
from numpy.typing import NDArray

from warmgraphite.memory import derived
from warmgraphite.model.behaviour import BEHAVIOUR, CUT_ORDER, Behaviour
from warmgraphite.model.palette import SEE_THROUGH, Material, number_named

__all__ = ["USUAL", "Part", "Parts"]

#: Selections of parts by patterns that are remembered.
MOST_SELECTIONS = 1000
#: Bytes that a part takes with its names.
BYTES_OF_PART = 700


@dataclass(frozen=True)
class Part:
    """One named piece of the model.
    ``layer`` is a path such as ``Hall/Roof``; ``material`` an index.

    ``id`` is the file's own lasting name where its format has one. ``absent`` parts were dropped from the study, or are
    no more in the newer file: they keep their number and what was said of them, and have no triangle. The rest
    overrules the role's behaviour, field by field, and is ``None`` where the role decides
    (:mod:`warmgraphite.model.behaviour`). ``cut_as`` names another material that its cut is filled as.

    A part of a figure knows which by ``figure``. ``crease`` is how far its edges bend, in degrees, before they are
    drawn, where the view does not say it; what ``casts`` no shadow and what ``receives`` none say so; of a ``plain``
    one only the outline is drawn, and of a ``quiet`` one its line elements alone. ``source`` is the joined file that it
    comes from, empty for the model's own.
    """

    name: str
    layer: str = ""
    material: int = 0
    role: str = "structure"
    id: str = ""
    absent: bool = False
    cut: bool | None = None
    clear: bool | None = None
    drawn: Literal["soft", "plain", "strong"] | None = None
    poche: Literal["solid", "earth", "void"] | None = None
    cut_as: str | None = None
    figure: str = ""
    crease: float | None = None
    casts: bool = True
    receives: bool = True
    plain: bool = False
    quiet: bool = False
    source: str = ""

    @property
    def path(self) -> str:
        """``layer/name``, the string that glob patterns of a view are matched against."""
        return f"{self.layer}/{self.name}" if self.layer else self.name

    @property
    def behaviour(self) -> Behaviour:
        """How it behaves in a drawing: as its role does, but for what was said of this part alone."""
        usual = BEHAVIOUR[self.role]
        return Behaviour(
            usual.cut if self.cut is None else self.cut,
            usual.clear if self.clear is None else self.clear,
            self.drawn or usual.drawn,
            self.poche or usual.poche,
            usual.glazing,
        )


#: What a part is when nothing is said; left out of what is kept.
USUAL: dict[str, Any] = {f.name: f.default for f in fields(Part)}


def _column(kind: Any, of: Callable[[Part], Any], about: str) -> Any:
    """A column (P,) of what is said of each part."""

    def column(self: Parts) -> Any:
        return np.array([of(p) for p in self], dtype=kind)

    column.__doc__ = about
    return derived(column)


# Many methods: a column of the table each.
@dataclass(frozen=True, eq=False, repr=False)
class Parts(Sequence[Part]):
    """The parts in the order of their numbers, with their ``materials`` and the ``cut_order`` of these.
    Columns have a row (P,) for each part.
    """

    rows: tuple[Part, ...]
    materials: tuple[Material, ...] = ()
    cut_order: tuple[str, ...] = ()

    def __len__(self) -> int:
        return len(self.rows)

    @overload
    def __getitem__(self, at: int) -> Part: ...
    @overload
    def __getitem__(self, at: slice) -> tuple[Part, ...]: ...
    def __getitem__(self, at: int | slice) -> Part | tuple[Part, ...]:
        return self.rows[at]

    def __iter__(self) -> Iterator[Part]:
        return iter(self.rows)

    def __eq__(self, other: object) -> bool:
        return self.rows == (other.rows if isinstance(other, Parts) else other)

    __hash__ = object.__hash__

    def __repr__(self) -> str:
        return f"Parts({self.rows!r})"

    present = _column(bool, lambda p: not p.absent, "Which are there: neither dropped nor gone from the file.")
    role = _column(None, lambda p: p.role, "The role of each.")
    material = _column(np.int32, lambda p: p.material, "The number of each one's material.")
    crease = _column(
        float,
        lambda p: np.nan if p.crease is None else p.crease,
        "Degrees of bend from which edges are drawn; NaN where the view says it.",
    )
    casts = _column(bool, lambda p: p.casts, "Which cast a shadow, as far as the sun lets them.")
    receives = _column(bool, lambda p: p.receives, "Which shadow falls on, as far as the sun lets it.")
    plain = _column(bool, lambda p: p.plain, "Of which only the outline is drawn.")
    quiet = _column(bool, lambda p: p.quiet, "Parts of figures of which only line elements are drawn.")

    @derived
    def behaviours(self) -> tuple[Behaviour, ...]:
        """How each behaves in a drawing."""
        return tuple(p.behaviour for p in self)

    @derived
    def is_cut(self) -> NDArray[np.bool_]:
        """(P,) whether a cutting plane goes into a part when the view says nothing else."""
        return np.array([b.cut for b in self.behaviours], dtype=bool)

    @derived
    def is_glass(self) -> NDArray[np.bool_]:
        """(P,) whether a part is seen through: by what was said of it, by its role, or because its material is."""
        clear = [
            b.clear or (p.clear is None and self.materials[p.material].opacity < SEE_THROUGH)
            for p, b in zip(self, self.behaviours, strict=True)
        ]
        return np.array(clear, dtype=bool)

    @derived
    def is_glazing(self) -> NDArray[np.bool_]:
        """(P,) whether a part, where one sees through it, counts as glass."""
        return np.array([b.glazing for b in self.behaviours], dtype=bool)

    @derived
    def figure(self) -> NDArray[np.int32]:
        """(P,) the number of the figure that a part belongs to, −1 for parts of the model."""
        number: dict[str, int] = {"": -1}
        return np.array([number.setdefault(p.figure, len(number) - 1) for p in self], dtype=np.int32)

    @derived
    def drawn(self) -> NDArray[np.str_]:
        """(P,) ``soft``, ``plain`` or ``strong``."""
        return np.array([b.drawn for b in self.behaviours])

    @derived
    def poche(self) -> NDArray[np.str_]:
        """(P,) what was said of how a part is filled where it is cut, or what is usual: solid, earth or void."""
        said = [p.poche or f"usually {b.poche}" for p, b in zip(self, self.behaviours, strict=True)]
        return np.array(said, dtype=np.str_)

    @derived
    def earth(self) -> NDArray[np.bool_]:
        """(P,) whether a part is hatched as earth where it is cut."""
        return np.array([b.poche == "earth" for b in self.behaviours], dtype=bool)

    @derived
    def cut_as(self) -> NDArray[np.int64]:
        """(P,) the material that a part is filled as where it is cut."""
        found = self.material.astype(np.int64)
        for number, part in enumerate(self):
            other = number_named(self.materials, part.cut_as) if part.cut_as else None
            if other is not None:
                found[number] = other
        return found  # type: ignore[no-any-return]

    @derived
    def cut_rank(self) -> NDArray[np.int64]:
        """(M,) the place of each material in the order in which they prevail where cut bodies overlap.

        Those of ``cut_order`` come first; the others follow by what they are used for, the most solid first.
        """
        usual = np.full(len(self.materials), len(CUT_ORDER))
        for part in self:
            if not part.absent:
                usual[part.material] = min(usual[part.material], CUT_ORDER.index(part.role))
        numbers = [number_named(self.materials, name) for name in self.cut_order]
        said = list(dict.fromkeys(n for n in numbers if n is not None))
        rest = sorted(set(range(len(self.materials))) - set(said), key=lambda n: (usual[n], n))
        rank = np.empty(len(self.materials), np.int64)
        rank[[*said, *rest]] = np.arange(len(self.materials))
        return rank

    @derived
    def _by_path(self) -> dict[str, int]:
        return {p.path: k for k, p in reversed([*enumerate(self)]) if not p.absent}

    def at(self, path: str) -> int | None:
        """The number of the part with a path; of several, and of none that is absent, the first."""
        return self._by_path.get(path)

    @derived
    def _selections(self) -> dict[tuple[str, ...], NDArray[np.bool_]]:
        return {}

    def selected(self, patterns: Sequence[str]) -> NDArray[np.bool_]:
        """(P,) which match any glob of ``patterns``, compared with ``layer/path/name`` and with the bare name.

        A part that is called just so matches too, whatever its name means as a glob: “Wall [2]” is that wall.
        """
        if not patterns:
            return np.zeros(len(self), bool)
        # The rules of a finish ask the same of the same parts over and over: for each key of a pass, of each picture,
        # of each export.
        asked, known = tuple(patterns), self._selections
        found = known.get(asked)
        if found is None:
            found = _selected(self, asked)
            found.flags.writeable = False
            if len(known) >= MOST_SELECTIONS:
                known.clear()
            known[asked] = found
        return found

    def weighed(self) -> tuple[int, list[Any]]:
        """What it weighs in memory: bytes of what is said of its parts. Its columns are beside that."""
        return BYTES_OF_PART * len(self), []


def _selected(parts: Parts, patterns: tuple[str, ...]) -> NDArray[np.bool_]:
    plain = set(patterns)
    globs = [p for p in patterns if set(p) & set("*?[")]
    test = re.compile("|".join(f"(?:{translate(p)})" for p in globs)) if globs else None

    def match(text: str) -> bool:
        return text in plain or (test is not None and bool(test.match(text)))

    return np.array([match(p.path) or match(p.name) for p in parts], dtype=bool)
