"""Mends that are safe, each a new state of the model and a sentence that says in numbers what was changed."""

from __future__ import annotations

from collections import deque
from dataclasses import replace

import numpy as np

from warmgraphite.errors import EditError
from warmgraphite.geometry.components import components
from warmgraphite.geometry.triangles import normals, sixths
from warmgraphite.model.health import FINDINGS, GAP, Shells, doubled_parts, flipped_bodies, gap_pairs, shells_of
from warmgraphite.model.model import Model

__all__ = ["dropped", "mend", "restored"]


def dropped(model: Model, parts: np.ndarray | list[int]) -> Model:
    """The model without parts: they keep their numbers and what was said of them, and lose their triangles."""
    gone = np.zeros(len(model.parts), bool)
    gone[np.asarray(parts, np.int64)] = True
    found = model.only(~gone[model.triangle_part])
    rows = tuple(replace(p, absent=True) if gone[i] else p for i, p in enumerate(model.parts))
    return found.said(parts=rows, hidden=tuple(h for h in model.hidden if not gone[h]))


def restored(model: Model, base: Model, parts: list[int]) -> Model:
    """The model with dropped parts back, their triangles as they are in ``base``.
    The file as it was read, with the same part numbers, units and origin.
    """
    back = np.zeros(len(base.parts), bool)
    back[[p for p in parts if model.parts[p].absent and p < len(base.parts) and not base.parts[p].absent]] = True
    if not back.any():
        raise EditError("None of these parts is in the model file, so they cannot be brought back.")
    rows = back[base.triangle_part]
    both = [model.triangles, base.triangles[rows] + len(model.vertices)]
    uv = None
    if model.mesh.uv is not None and base.mesh.uv is not None:
        uv = np.concatenate([model.mesh.uv, base.mesh.uv[rows]])
    whole = model.reshaped(
        vertices=np.concatenate([model.vertices, base.vertices]),
        triangles=np.concatenate(both).astype(np.int32),
        triangle_part=np.concatenate([model.triangle_part, base.triangle_part[rows]]),
        uv=uv,
        parts=tuple(replace(p, absent=False) if i < len(back) and back[i] else p for i, p in enumerate(model.parts)),
    )
    order = np.argsort(whole.triangle_part, kind="stable")
    found = whole.reshaped(
        triangles=whole.triangles[order],
        triangle_part=whole.triangle_part[order],
        uv=None if uv is None else uv[order],
    )
    return found.only(np.ones(len(order), bool))


def mend(model: Model, kind: str, tolerance: float = GAP) -> tuple[Model, str]:
    """The model with one kind of finding mended, and what was changed. Raises :class:`EditError` when none is safe."""
    if kind not in FINDINGS or not FINDINGS[kind].mend:
        title = FINDINGS[kind].title if kind in FINDINGS else kind
        raise EditError(f"“{title}” has no safe mend; change it where the model was made and bring the newer file.")
    if not len(model.triangles):
        raise EditError("Nothing is left in the model that could be mended.")
    if kind in ("far", "doubled_parts"):
        parts = model.mesh.far_parts if kind == "far" else doubled_parts(model)
        if not len(parts):
            raise _nothing(kind)
        return dropped(model, parts), f"{_count(len(parts), 'part')} dropped."
    shells = shells_of(model)
    return {"doubled_faces": _single_faces, "flipped": _outward, "gaps": _closed}[kind](model, shells, tolerance)


def _count(number: int, what: str) -> str:
    return f"{number:,} {what}{'' if number == 1 else 's'}"


def _nothing(kind: str) -> EditError:
    return EditError(f"There is nothing left to mend under “{FINDINGS[kind].title}”.")


def _single_faces(model: Model, shells: Shells, _tolerance: float) -> tuple[Model, str]:
    if not len(shells.twin):
        raise _nothing("doubled_faces")
    keep = np.ones(len(model.triangles), bool)
    keep[shells.twin] = False
    return model.only(keep), f"{_count(len(shells.twin), 'doubled face')} taken out."


def _outward(model: Model, shells: Shells, _tolerance: float) -> tuple[Model, str]:
    uneven, wrong = flipped_bodies(model, shells)
    if not uneven.any() and not wrong.any():
        raise _nothing("flipped")
    turn = wrong[shells.body].copy()
    rows = np.flatnonzero(uneven[shells.body])
    if len(rows):
        turn[rows] = _agreeing(shells, rows)
        # Which way the bodies look now decides whether all of them turn once more.
        corners = model.vertices[model.triangles[shells.faces[rows]]] - model.anchor
        sixth = sixths(corners)
        volume = np.bincount(shells.body[rows], np.where(turn[rows], -sixth, sixth), len(shells.closed))
        turned = np.bincount(shells.body[rows], turn[rows], len(shells.closed))
        total = np.bincount(shells.body, minlength=len(shells.closed))
        inward = uneven & np.where(shells.closed, volume < 0, turned * 2 > total)
        turn[rows] ^= inward[shells.body[rows]]
    faces = shells.faces[turn]
    triangles = model.triangles.copy()
    triangles[faces] = triangles[faces][:, ::-1]
    uv = model.mesh.uv
    if uv is not None:
        uv = uv.copy()
        uv[faces] = uv[faces][:, ::-1]
    parts = len(np.unique(model.triangle_part[faces]))
    return model.reshaped(
        triangles=triangles, uv=uv
    ), f"{_count(len(faces), 'face')} of {_count(parts, 'part')} turned round."


def _agreeing(shells: Shells, rows: np.ndarray) -> np.ndarray:
    """Which of the faces ``rows`` to turn so that neighbours agree, each body going by its first face."""
    chosen = np.zeros(len(shells.faces), bool)
    chosen[rows] = True
    edges = shells.edges
    order = np.argsort(edges.of, kind="stable")  # half-edges by edge
    first = np.searchsorted(edges.of[order], np.arange(len(edges.count)))
    pairs = np.flatnonzero(edges.count == 2)
    a, b = order[first[pairs]], order[first[pairs] + 1]
    inside = chosen[a // 3]
    a, b, same = a[inside] // 3, b[inside] // 3, edges.turn[pairs[inside]] != 0
    near: dict[int, list[tuple[int, bool]]] = {}
    for i, j, s in zip(a.tolist(), b.tolist(), same.tolist(), strict=True):
        near.setdefault(i, []).append((j, s))
        near.setdefault(j, []).append((i, s))
    turn: dict[int, bool] = {}
    for seed in rows.tolist():
        if seed in turn:
            continue
        turn[seed] = False
        queue = deque([seed])
        while queue:
            at = queue.popleft()
            for other, disagrees in near.get(at, ()):
                if other not in turn:
                    turn[other] = turn[at] ^ disagrees
                    queue.append(other)
    return np.array([turn[r] for r in rows.tolist()], bool)


def _closed(model: Model, shells: Shells, tolerance: float) -> tuple[Model, str]:
    pairs, points, corner = gap_pairs(model, shells, tolerance)
    if not len(pairs):
        raise _nothing("gaps")
    count = len(points)
    label = components(count, pairs[:, 0], pairs[:, 1])
    groups = np.bincount(label)
    middle = np.stack([np.bincount(label, points[:, k]) / groups for k in range(3)], 1)
    # A chain of near corners could draw distant ones together: what would move too far stays.
    moved = np.linalg.norm(middle[label] - points, axis=1)
    together = groups[label] > 1
    far = np.zeros(len(groups), bool)
    far[label[moved > tolerance]] = True
    together &= ~far[label]
    target = np.full((int(shells.welded.max()) + 1, 3), np.nan)
    target[corner[together]] = middle[label[together]]
    corners = model.vertices[model.triangles]
    new = target[shells.welded]
    hit = np.isfinite(new[..., 0])
    corners[shells.faces] = np.where(hit[..., None], new, corners[shells.faces])
    # Points that several triangles share move once: corners are gathered into points again.
    flat, local = np.unique(corners.reshape(-1, 3), axis=0, return_inverse=True)
    triangles = local.reshape(-1, 3).astype(np.int32)
    found = model.reshaped(vertices=flat, triangles=triangles)
    flatness = np.linalg.norm(normals(corners), axis=1)
    if (flatness == 0).any():
        found = found.only(flatness > 0)
    closed = int((np.bincount(label[together]) > 1).sum()) if together.any() else 0
    if not closed:
        raise EditError(
            f"The open borders within {tolerance * 1000:g} mm run into chains that would draw distant corners "
            f"together; try less."
        )
    most = float(moved[together].max()) * 1000
    return (
        found,
        f"{_count(int(together.sum()), 'corner')} brought together at {_count(closed, 'place')}, none by more than "
        f"{most:.2g} mm.",
    )
