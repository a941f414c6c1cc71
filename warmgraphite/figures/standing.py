"""Figures put into a model: every pass then knows them as it knows parts."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour import channels, luminance, shares, written
from warmgraphite.figures.choosing import shows
from warmgraphite.figures.cutouts import PictureSource, tinted
from warmgraphite.figures.figure import Drawn, Figure, Seen, turn_matrix
from warmgraphite.figures.piece import WHOLE, Piece
from warmgraphite.figures.spots import out_of_sight, projection_without, seen_from, spot_of
from warmgraphite.ink.entourage import FigureRule
from warmgraphite.memory import Store
from warmgraphite.model.model import OF_FIGURES, Model, Put, build_model
from warmgraphite.model.palette import Material
from warmgraphite.model.parts import Part
from warmgraphite.model.solids import lathe
from warmgraphite.view.specification import FigureChoice, ViewSpecification

__all__ = [
    "BLANK",
    "LAYER",
    "SET",
    "WASHED",
    "FigureLook",
    "Standing",
    "Way",
    "drawn_as",
    "peopled",
]

#: The layer of all figures.
LAYER = "Figures"
#: The colour of a card of which the outline alone is drawn.
BLANK = "#fbf8f1"
#: What part sets of figures drawn in a way of their own are called.
SET = f"{OF_FIGURES}drawn "
#: The part set of all that is drawn in wash, which a sheet lays.
WASHED = f"{OF_FIGURES}in wash"


@dataclass(frozen=True)
class FigureLook:
    """How one figure is drawn, after all rules."""

    shown: bool = True
    drawn: Drawn = "full"
    hue: str | None = None
    weight: float | None = None


@dataclass(frozen=True)
class Way:
    """How some parts of figures are drawn otherwise than the finish draws all.
    As what, in which ``hue``, with lines of what ``weight`` in millimetres and what ``colour``.
    """

    drawn: Drawn = "full"
    hue: str | None = None
    weight: float | None = None
    colour: str | None = None


@dataclass(frozen=True)
class Standing:
    """A model with figures, and the part sets of those that are drawn in a way of their own."""

    model: Model
    drawn: tuple[tuple[str, Way], ...] = ()


def drawn_as(figure: Figure, rules: Sequence[FigureRule]) -> FigureLook:
    """How a figure is drawn: as the rules of a finish say, and before them as it says itself."""
    shown, drawn, hue, weight = True, None, None, None
    for rule in rules:
        if rule.means(figure):
            shown = rule.shown
            drawn, hue, weight = rule.drawn or drawn, rule.hue or hue, rule.weight or weight
    return FigureLook(shown, figure.drawn or drawn or "full", figure.hue or hue, figure.weight or weight)


def _hued(colour: str, hue: str) -> str:
    """A colour as light as it is, in one hue."""
    light, own = luminance(shares(colour, hue)).tolist()
    target = np.array(channels(hue), float)
    # Towards white where it is lighter than the hue, towards black where it is darker.
    share = 0.55 * (light - own)
    mixed = target + (255 - target) * share if share > 0 else target * (1 + share)
    return written(np.clip(mixed, 0, 255))


def _mark(figure: Figure) -> tuple[Piece, ...]:
    """What is left of a figure where it is no more than a point on the paper: a spindle as tall."""
    h = figure.tall
    colour = max(figure.pieces(Seen(detail=2)), key=lambda p: len(p.triangles)).colour
    return (Piece.of("mark", colour, lathe([(0, 0), (0.16 * h, 0.45 * h), (0, h)], 4)),)


@dataclass(frozen=True)
class _Row:
    """A figure as it stands: how it is drawn and seen, where its foot is in metres, and how it is turned."""

    figure: Figure
    look: FigureLook
    seen: Seen
    at: tuple[float, ...]
    turn: float

    @property
    def written(self) -> list[Any]:
        """All that its part of the model goes by, as JSON."""
        said = self.figure.model_dump(mode="json", exclude={"on", "paper"})
        return [
            said,
            vars(self.look),
            self.seen.detail,
            self.seen.coarsely,
            self.figure.shape_key(self.seen),
            self.at,
            self.turn,
        ]


#: The last models with figures: by what stands where, and how it is seen.
_stand: Store[Standing] = Store("models with figures")
#: The same by what was asked for; the figures are held with it, so that none takes the place of another in memory.
_asked: Store[tuple[tuple[Figure, ...], Standing]] = Store("models with figures")


def _there(figures: Sequence[Figure], kept: PictureSource | None) -> tuple[str, ...]:
    """The pictures of figures that are kept: one that comes, or goes, is another card."""
    return tuple(sorted({p for f in figures for p in f.pictures if kept is not None and kept.has(p)}))


def peopled(
    model: Model, view: ViewSpecification, figures: Sequence[Figure], rules: Sequence[FigureRule] = (),
    choice: FigureChoice | None = None,
    kept: PictureSource | None = None,
) -> Standing:  # fmt: skip
    """The model of a view with those of its figures that it shows, after all parts of its own.
    Its tolerances, and where it lies on the paper, stay those of the model: no figure moves a line of a house. Pictures
    of one's own are where they are ``kept``.
    """
    choice = choice or view.figures
    asked = (
        model.version,
        view.model_dump_json(include={"projection", "frame", "cuts", "parts"}),
        view.sun.cast_off,
        choice,
        tuple(rules),
        _there(figures, kept),
    )
    # The same figures are asked for again and again, for each key of each picture; they are never changed, only
    # replaced.
    same = tuple(id(f) for f in figures)
    return _asked.get((asked, same), lambda: (tuple(figures), _peopled(model, view, figures, rules, choice, kept)))[1]


def _peopled(
    model: Model, view: ViewSpecification, figures: Sequence[Figure], rules: Sequence[FigureRule], choice: FigureChoice,
    kept: PictureSource | None
) -> Standing:  # fmt: skip
    gone = {p for f in figures for p in f.replaces}
    rows: list[_Row] = []
    paper = None
    for figure in figures:
        look = drawn_as(figure, rules)
        if not look.shown or not shows(choice, figure):
            continue
        paper = paper or projection_without(model, view)
        spot, extra = spot_of(figure, paper, model)
        mm, seen = seen_from(spot, figure.tall, paper)
        if look.drawn == "bare" and hasattr(figure, "season"):
            figure = figure.model_copy(update={"season": "bare"})
        detail = figure.detail_at(mm)
        coarse = detail > 0 or figure.detail_at(mm / figure.fine) > 0
        seen = replace(seen, detail=detail, coarsely=coarse, kept=kept)
        if figure.paper is not None or not out_of_sight(figure, seen, spot, view, paper):
            rows.append(_Row(figure, look, seen, tuple(spot.tolist()), figure.turned(seen) + extra))
    if not rows and not gone:
        return Standing(model)
    # Whatever does not go by where it is seen from stands as it did for another camera.
    key = json.dumps(
        [model.version, sorted(gone), [r.written for r in rows]], default=list, sort_keys=True,
    )  # fmt: skip
    return _stand.get(key, lambda: _stood(model, rows, gone))


class _Gathering:
    """Bodies of figures as they are gathered.
    Their materials and pictures, and how those are drawn that are drawn in a way of their own.
    """

    def __init__(self, model: Model) -> None:
        self.model = model
        self.materials: list[Material] = list(model.materials)
        self.numbers: dict[tuple[str, float, str], int] = {}
        self.pictures: dict[str, bytes] = {}
        self.ways: dict[Way, list[int]] = {}
        self.washed: list[int] = []
        self.called: dict[str, int] = {}
        self.named: dict[str, int] = {}
        self.taken = {m.name for m in model.materials}
        self.count = len(model.parts)

    def _name(self, name: str) -> str:
        self.called[name] = self.called.get(name, 0) + 1
        return name if self.called[name] == 1 else f"{name} {self.called[name]}"

    def _free(self, name: str) -> str:
        """A name like this one that no material has."""
        number, found = self.named.get(name, 1), name
        while found in self.taken:
            number += 1
            found = f"{name} {number}"
        self.named[name] = number
        self.taken.add(found)
        return found

    def _material(self, piece: Piece, look: FigureLook, pictured: bool) -> tuple[int, str]:
        """The number of the material of a piece, and its colour."""
        colour = _hued(piece.colour, look.hue) if look.hue else piece.colour
        if piece.file and look.drawn == "outline":
            colour = BLANK
        picture = (f"{piece.picture} {look.hue}" if look.hue else piece.picture) if pictured else ""
        if pictured and picture not in self.pictures:
            self.pictures[picture] = tinted(piece.file, look.hue) if look.hue else piece.file
        about = (colour, piece.opacity, picture)
        if about not in self.numbers:
            self.numbers[about] = len(self.materials)
            self.materials.append(Material(self._free(piece.name), colour, piece.opacity, picture))
        return self.numbers[about], colour

    def put(self, row: _Row) -> Put:
        """The body of a figure, and where it stands."""
        figure, look, detail = row.figure, row.look, row.seen.detail
        layer = f"{LAYER}/{figure.group or figure.plural}/{self._name(figure.called)}"
        mass = detail >= 2 or look.drawn in ("silhouette", "outline", "stipple", "wash")
        drawn: Drawn = "silhouette" if detail >= 2 and look.drawn in ("full", "outline", "stipple") else look.drawn
        shadow = figure.paper is None
        meshes: list[tuple[Part, NDArray[np.float64], NDArray[np.int32]]] = []
        uvs: list[NDArray[np.float32] | None] = []
        lines: dict[int, NDArray[np.float64]] = {}
        for piece in _mark(figure) if detail == 3 else figure.pieces(row.seen):
            strokes = piece.lines if piece.lines is not None and drawn != "silhouette" else None
            if strokes is None and not len(piece.triangles):
                continue
            # A silhouette and an outline show no picture.
            pictured = bool(piece.file) and not mass
            material, colour = self._material(piece, look, pictured)
            part = Part(
                piece.name if pictured or not piece.file else "card", layer, material, figure.is_a, figure=figure.id,
                cut=figure.cut, clear=False, drawn="soft", crease=piece.crease,
                casts=figure.casts and shadow, receives=figure.receives and piece.receives and shadow,
                plain=mass or (detail == 1 and (piece.crease >= WHOLE or look.drawn == "full")),
                quiet=piece.quiet and drawn != "silhouette",
            )  # fmt: skip
            if strokes is not None:
                lines[len(meshes)] = strokes
            meshes.append((part, piece.points, piece.triangles))
            uvs.append(piece.uv)
            weight = look.weight or (piece.weight if strokes is not None else 0.0) or None
            if drawn == "wash":
                self.washed.append(self.count)
            if drawn in ("stipple", "silhouette") or weight:
                way = Way(drawn, look.hue, weight, colour if strokes is not None else None)
                self.ways.setdefault(way, []).append(self.count)
            self.count += 1
        body = build_model("", meshes, (), uvs, self.pictures, lines=lines)
        return Put(body, turn_matrix(row.turn), np.array(row.at))


def _stood(model: Model, rows: Sequence[_Row], gone: set[str]) -> Standing:
    gathering = _Gathering(model)
    put = tuple(gathering.put(row) for row in rows)
    bodies = [model, *(p.body for p in put)]
    sizes = np.array([(len(b.vertices), len(b.parts)) for b in bodies])
    points, parts = (np.cumsum(sizes, axis=0) - sizes).T
    moved = lambda of: np.concatenate([of(model), *(of(p.body) @ p.turn.T + p.by for p in put)])
    # What is replaced is not there, but keeps its number.
    own = [replace(p, absent=True) if gone and p.path in gone else p for p in model.parts]
    uv = None
    if any(b.mesh.uv is not None for b in bodies):
        uv = np.concatenate(
            [np.zeros((len(b.triangles), 3, 2), np.float32) if b.mesh.uv is None else b.mesh.uv for b in bodies]
        )
    names = {way: f"{SET}{n + 1}" for n, way in enumerate(gathering.ways)}
    found = model.reshaped(
        vertices=moved(lambda b: b.vertices),
        triangles=np.concatenate([b.triangles + n for b, n in zip(bodies, points, strict=True)]).astype(np.int32),
        triangle_part=np.concatenate([b.triangle_part + n for b, n in zip(bodies, parts, strict=True)]).astype(
            np.int32
        ),
        parts=(*own, *(p for b in bodies[1:] for p in b.parts)),
        materials=tuple(gathering.materials),
        uv=uv,
        textures={**model.textures, **gathering.pictures},
        line_ends=moved(lambda b: b.mesh.line_ends),
        line_part=np.concatenate([b.mesh.line_part + n for b, n in zip(bodies, parts, strict=True)]).astype(np.int32),
        sets={**model.sets, **{names[w]: tuple(n) for w, n in gathering.ways.items()}, WASHED: tuple(gathering.washed)},
        bare=model,
        put=put,
    )
    return Standing(found, tuple((names[way], way) for way in gathering.ways))
