"""What would spoil a drawing: found on the triangles, said in the trade's words, with its place.

Every finding is exact on the welded mesh (corners within 0.02 mm are one) but for two, which go by a stated measure:
gaps by a tolerance, parts far away by the size of what lies in the middle.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NO_SIZE, WELD
from warmgraphite.geometry.triangles import normals, sixths
from warmgraphite.model.model import Model
from warmgraphite.model.welding import Edges, connected, edges_of, grouped, mixed, weld
from warmgraphite.progress import Stages, unwatched

__all__ = [
    "FINDINGS",
    "GAP",
    "Finding",
    "Place",
    "Shells",
    "check",
    "doubled_parts",
    "flipped_bodies",
    "gap_pairs",
    "shells_of",
]

#: Metres within which two open borders count as meant to meet.
GAP = 0.005
#: Metres below which a part is flat.
FLAT = 1e-4
MOST_PLACES = 3000


@dataclass(frozen=True)
class About:
    """What a finding is called, what it does to a drawing, and what mending does (empty: none is safe)."""

    title: str
    harm: str
    mend: str = ""


FINDINGS: dict[str, About] = {
    "gaps": About(
        "Hairline gaps", "Cut shapes do not close there, and a hair of light shows between faces that should meet.",
        "Brings the open borders together that lie within the tolerance.",
    ),
    "doubled_faces": About(
        "Doubled faces", "The same face lies there twice: tones flicker and see-through faces darken.",
        "Keeps one of each."
    ),
    "doubled_parts": About(
        "Doubled parts", "The same body stands there twice: glass darkens, lines are counted twice.",
        "Drops all but the first of each."
    ),
    "flipped": About(
        "Faces turned inside out", "Shade falls on the wrong side, and other programs show holes.",
        "Turns each body's faces to look the same way, outward where it is closed.",
    ),
    "far": About(
        "Small parts far away", "They blow up the extents: the building comes out tiny when the drawing is fitted.",
        "Drops them from the study."
    ),
    "open": About("Open bodies",
        "Where a plane cuts them, no closed shape can be filled; the cut is drawn as a stroke."),
    "flat": About("Bodies without thickness", "Cut, they give one stroke and no poche. Panes and sails are meant so."),
    "inside": About("Parts inside other parts",
        "They are hidden from outside, and lie as shapes within a shape where both are cut."),
    "non_manifold": About("Edges where more than two faces meet",
        "Inside and outside are not clear there; a cut may close in another way."),
}  # fmt: skip


@dataclass(frozen=True)
class Place:
    """Where: a part's number, a point (x, y, z) in metres, how many there are in that part."""

    part: int
    point: tuple[float, float, float]
    count: int


@dataclass(frozen=True)
class Finding:
    """One kind of fault: how often, in how many parts, and where.
    ``whole`` is False when the model was too large to be searched to its end, so that there may be more.
    """

    kind: str
    count: int
    parts: int
    places: tuple[Place, ...] = field(default_factory=tuple)
    whole: bool = True


@dataclass(frozen=True)
class Shells:
    """The welded mesh of a model: ``faces`` (F,) the model's triangles but for doubled ones, ``twin`` those doubled.
    ``welded`` (F, 3); its edges; the connected ``body`` of each face; (B,) whether a body is ``closed``, its signed
    ``volume`` in m³, and the part it belongs to.
    """

    faces: NDArray[np.int64]
    twin: NDArray[np.int64]
    welded: NDArray[np.int64]
    edges: Edges
    body: NDArray[np.int64]
    closed: NDArray[np.bool_]
    volume: NDArray[np.float64]
    part: NDArray[np.int64]


def shells_of(model: Model) -> Shells:
    """The welded shells, each face once."""
    welded = weld(model.mesh, model.anchor)
    proper = (welded[:, 0] != welded[:, 1]) & (welded[:, 1] != welded[:, 2]) & (welded[:, 2] != welded[:, 0])
    low, high = welded.min(1), welded.max(1)
    number = grouped(mixed(low, welded.sum(1) - low - high, high))
    first = np.full(int(number.max(initial=-1)) + 1, len(number), np.int64)
    np.minimum.at(first, number, np.arange(len(number)))
    twin = first[number] != np.arange(len(number))
    faces = np.flatnonzero(proper & ~twin)
    welded_once = welded[faces]
    edges = edges_of(welded_once)
    body = connected(welded_once)
    bodies = int(body.max(initial=-1)) + 1
    closed = np.ones(bodies, bool)
    closed[body[edges.half[edges.count != 2] // 3]] = False
    corners = model.vertices[model.triangles[faces]] - model.anchor
    sixth = sixths(corners)
    part = np.zeros(bodies, np.int64)
    part[body] = model.triangle_part[faces]
    return Shells(
        faces,
        np.flatnonzero(proper & twin),
        welded_once,
        edges,
        body,
        closed,
        np.bincount(body, sixth, bodies).astype(float),
        part,
    )


def _places(model: Model, part: NDArray, point: NDArray[np.float64], weight: NDArray) -> tuple[int, tuple[Place, ...]]:
    """Number of parts, and one place for each: where the weight is greatest; the worst parts first."""
    if not len(part):
        return 0, ()
    order = np.lexsort((-weight, part))
    ranked = part[order]
    first = np.flatnonzero(np.append(True, ranked[1:] != ranked[:-1]))
    count = np.diff(np.append(first, len(ranked)))
    rows = np.argsort(-count, kind="stable")[:MOST_PLACES]
    found = tuple(
        Place(int(ranked[first[r]]), tuple(np.round(point[order[first[r]]], 4).tolist()), int(count[r])) for r in rows
    )
    return len(first), found


def _edge_finding(model: Model, shells: Shells, kind: str, rows: NDArray) -> Finding | None:
    if not len(rows):
        return None
    face, side = np.divmod(shells.edges.half[rows], 3)
    corners = model.triangles[shells.faces[face]]
    a = model.vertices[corners[np.arange(len(rows)), side]]
    b = model.vertices[corners[np.arange(len(rows)), (side + 1) % 3]]
    parts, places = _places(model, model.triangle_part[shells.faces[face]], (a + b) / 2, np.linalg.norm(b - a, axis=1))
    return Finding(kind, len(rows), parts, places)


def _part_finding(model: Model, kind: str, parts: NDArray) -> Finding | None:
    if not len(parts):
        return None
    middles = model.part_bounds[parts].mean(1)
    places = tuple(
        Place(int(p), tuple(np.round(m, 4).tolist()), 1) for p, m in zip(parts[:MOST_PLACES], middles, strict=False)
    )
    return Finding(kind, len(parts), len(parts), places)


def gap_pairs(
    model: Model, shells: Shells, tolerance: float
) -> tuple[NDArray[np.int64], NDArray[np.float64], NDArray[np.int64]]:
    """Pairs (G, 2) of corners on open borders that lie within ``tolerance`` metres of each other and are not one.

    Returns the pairs as rows of the second result: points (K, 3), and of the third: their welded corner numbers (K,).
    """
    from scipy.spatial import cKDTree

    edges = shells.edges
    open_rows = np.flatnonzero(edges.count == 1)
    corner = np.unique(np.concatenate([edges.low[open_rows], edges.high[open_rows]]))
    if not len(corner):
        return np.empty((0, 2), np.int64), np.empty((0, 3)), corner
    where = np.zeros(int(shells.welded.max()) + 1, np.int64)
    where[shells.welded.ravel()] = model.triangles[shells.faces].ravel()
    points = model.vertices[where[corner]]
    pairs = cKDTree(points).query_pairs(tolerance, output_type="ndarray").astype(np.int64)
    if not len(pairs):
        return pairs.reshape(-1, 2), points, corner
    # The two ends of a short edge are no gap; nor are corners of two parts that touch already.
    low, high = np.minimum(*corner[pairs].T), np.maximum(*corner[pairs].T)
    span = int(shells.welded.max()) + 1
    known = np.isin(low * span + high, edges.low * span + edges.high)
    owner = np.zeros(span, np.int64)
    owner[shells.welded.ravel()] = np.repeat(model.triangle_part[shells.faces], 3)
    apart = np.linalg.norm(points[pairs[:, 0]] - points[pairs[:, 1]], axis=1) > 2 * WELD
    apart |= owner[corner[pairs[:, 0]]] == owner[corner[pairs[:, 1]]]
    return pairs[~known & apart], points, corner


def _flat_parts(model: Model) -> NDArray[np.int64]:
    """Parts whose triangles all lie in one plane."""
    corners = model.vertices[model.triangles]
    normal = normals(corners)
    area = np.linalg.norm(normal, axis=1)
    order = np.lexsort((-area, model.triangle_part))
    owner = model.triangle_part[order]
    first = order[np.append(True, owner[1:] != owner[:-1])] if len(owner) else order
    axis = np.zeros((len(model.parts), 3))
    axis[model.triangle_part[first]] = normal[first] / np.maximum(area[first], NO_SIZE)[:, None]
    base = np.zeros((len(model.parts), 3))
    base[model.triangle_part[first]] = corners[first, 0]
    off = np.abs(((corners - base[model.triangle_part][:, None]) * axis[model.triangle_part][:, None]).sum(-1)).max(1)
    worst = np.zeros(len(model.parts))
    np.maximum.at(worst, model.triangle_part, off)
    there = np.zeros(len(model.parts), bool)
    there[model.triangle_part] = True
    return np.flatnonzero(there & (worst < FLAT))


def doubled_parts(model: Model) -> NDArray[np.int64]:
    """Parts that stand exactly where an earlier one stands, whatever the order of their triangles."""
    number = weld(model.mesh, model.anchor, apart=False)
    low, high = number.min(1), number.max(1)
    key = mixed(low, number.sum(1) - low - high, high)
    order = np.argsort(model.triangle_part, kind="stable")
    owner = model.triangle_part[order]
    if not len(owner):
        return np.empty(0, np.int64)
    first = np.flatnonzero(np.append(True, owner[1:] != owner[:-1]))
    total = np.add.reduceat(key[order], first)
    count = np.diff(np.append(first, len(owner)))
    parts = owner[first]
    same = grouped(mixed(total.view(np.int64), count))
    earliest = np.full(int(same.max()) + 1, len(model.parts), np.int64)
    np.minimum.at(earliest, same, parts)
    return parts[earliest[same] != parts].astype(np.int64)


#: Triangles that the search for parts within parts looks at; a model that asks for more is searched in part.
_MOST_TESTS = 6_000_000


def _inside_parts(model: Model, shells: Shells) -> tuple[NDArray[np.int64], bool]:
    """Parts that lie wholly inside another part, all of whose bodies are closed; and whether all were looked at."""
    boxes = model.part_bounds
    shut = np.zeros(len(model.parts), bool)
    shut[shells.part] = True
    shut[shells.part[~shells.closed]] = False
    outer = np.flatnonzero(shut & np.isfinite(boxes).all((1, 2)) & ~model.parts.is_glass)
    inner = np.flatnonzero(np.isfinite(boxes).all((1, 2)))
    if not len(outer) or len(inner) < 2:
        return np.empty(0, np.int64), True
    order = np.argsort(model.triangle_part, kind="stable")
    limits = np.searchsorted(model.triangle_part[order], np.arange(len(model.parts) + 1))
    inner = inner[np.argsort(boxes[inner, 0, 0])]
    ranked = boxes[inner, 0, 0]
    found: set[int] = set()
    spent = 0
    for o in outer[np.argsort(-np.prod(boxes[outer, 1] - boxes[outer, 0], axis=1))]:
        low, high = boxes[o]
        near = inner[np.searchsorted(ranked, low[0], "right") : np.searchsorted(ranked, high[0], "left")]
        held = near[(boxes[near, 0] > low).all(1) & (boxes[near, 1] < high).all(1)]
        held = np.array([h for h in held.tolist() if h not in found and h != o], np.int64)
        if not len(held):
            continue
        rows = order[limits[o] : limits[o + 1]]
        spent += len(rows) * len(held) * 3
        if spent > _MOST_TESTS:
            return np.array(sorted(found), np.int64), False
        shell = model.vertices[model.triangles[rows]]
        for h in held.tolist():
            own = model.triangles[order[limits[h] : limits[h + 1]]].ravel()
            points = model.vertices[own[np.linspace(0, len(own) - 1, 3).astype(int)]]
            # A little inward: what touches the other from outside, as a frame does its opening, is not in it.
            points = points + 0.02 * (boxes[h].mean(0) - points)
            if all(_within(p, shell) for p in points):
                found.add(h)
    return np.array(sorted(found), np.int64), True


def _within(point: NDArray[np.float64], shell: NDArray[np.float64]) -> bool:
    """Whether a point lies inside closed triangles (T, 3, 3), by the solid angle that they span as seen from it: 4π.

    On a face it is 2π, in the hollow of an edge or a corner up to 3.5π; none of these is inside.

    Van Oosterom and Strackee, "The solid angle of a plane triangle", 1983.
    """
    a, b, c = (shell[:, i] - point for i in range(3))
    la, lb, lc = (np.linalg.norm(v, axis=1) for v in (a, b, c))
    top = (a * np.cross(b, c)).sum(1)
    bottom = la * lb * lc + (a * b).sum(1) * lc + (b * c).sum(1) * la + (c * a).sum(1) * lb
    return bool(abs(np.arctan2(top, bottom).sum() * 2) > 3.75 * np.pi)


def flipped_bodies(model: Model, shells: Shells) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """(B,) bodies whose faces do not agree which side is out, and closed ones that agree on the wrong one."""
    edges = shells.edges
    uneven = np.zeros(len(shells.closed), bool)
    uneven[shells.body[edges.half[(edges.count == 2) & (edges.turn != 0)] // 3]] = True
    wrong = shells.closed & ~uneven & (shells.volume < 0)
    for b in np.flatnonzero(wrong):
        # The inner shell of a hollow body rightly looks inward.
        others = np.flatnonzero((shells.part == shells.part[b]) & (np.arange(len(wrong)) != b) & shells.closed)
        if len(others) and len(others) < 200:
            point = model.vertices[model.triangles[shells.faces[np.argmax(shells.body == b)], 0]]
            if any(_within(point, model.vertices[model.triangles[shells.faces[shells.body == o]]]) for o in others):
                wrong[b] = False
    return uneven, wrong


def check(model: Model, tolerance: float = GAP, watch: Stages = unwatched) -> list[Finding]:
    """All findings, in the order of :data:`FINDINGS`; ``tolerance`` in metres is for gaps."""
    watch("Joining corners", 0.05)
    shells = shells_of(model)
    edges = shells.edges
    found: dict[str, Finding | None] = {}
    watch("Looking at edges", 0.4)
    flat = _flat_parts(model)
    pairs, points, corner = gap_pairs(model, shells, tolerance)
    if len(pairs):
        owner = np.zeros(int(shells.welded.max()) + 1, np.int64)
        owner[shells.welded.ravel()] = np.repeat(model.triangle_part[shells.faces], 3)
        gap = np.linalg.norm(points[pairs[:, 0]] - points[pairs[:, 1]], axis=1)
        parts, places = _places(model, owner[corner[pairs[:, 0]]], points[pairs].mean(1), gap)
        found["gaps"] = Finding("gaps", len(pairs), parts, places)
    is_flat = np.zeros(len(model.parts), bool)
    is_flat[flat] = True
    open_rows = np.flatnonzero((edges.count == 1) & ~is_flat[model.triangle_part[shells.faces[edges.half // 3]]])
    found["open"] = _edge_finding(model, shells, "open", open_rows)
    found["non_manifold"] = _edge_finding(model, shells, "non_manifold", np.flatnonzero(edges.count > 2))
    watch("Comparing faces and parts", 0.6)
    if len(shells.twin):
        middle = model.vertices[model.triangles[shells.twin]].mean(1)
        parts, places = _places(model, model.triangle_part[shells.twin], middle, np.ones(len(shells.twin)))
        found["doubled_faces"] = Finding("doubled_faces", len(shells.twin), parts, places)
    found["doubled_parts"] = _part_finding(model, "doubled_parts", doubled_parts(model))
    uneven, wrong = flipped_bodies(model, shells)
    rows = np.flatnonzero((uneven | wrong)[shells.body])
    if len(rows):
        # Of faces that do not agree, those count where the disagreement shows.
        edge = np.flatnonzero((edges.count == 2) & (edges.turn != 0))
        face = np.concatenate([edges.half[edge] // 3, np.flatnonzero(wrong[shells.body])])
        middle = model.vertices[model.triangles[shells.faces[face]]].mean(1)
        parts, places = _places(model, model.triangle_part[shells.faces[face]], middle, np.ones(len(face)))
        found["flipped"] = Finding("flipped", len(face), parts, places)
    found["far"] = _part_finding(model, "far", model.mesh.far_parts)
    found["flat"] = _part_finding(model, "flat", flat)
    watch("Looking for parts within parts", 0.8)
    inside, whole = _inside_parts(model, shells)
    found["inside"] = _part_finding(model, "inside", inside)
    if not whole:
        found["inside"] = replace(found["inside"] or Finding("inside", 0, 0), whole=False)
    watch("", 1.0)
    return [row for kind in FINDINGS if (row := found.get(kind)) is not None]
