"""Visible and hidden lines with kind and rank, chained.

An edge visits the cells of the grid that it crosses; every triangle it finds there removes the stretch of the edge that
it covers and lies in front of. What is left is visible. All of it is exact in the frame's coordinates, in which edges
are straight and faces flat in perspective too (after Galimberti and Montanari, "An algorithm for hidden line
elimination", 1969, with a grid).

A piece is then followed on either side, and the nearest surface found there, stretch by stretch: far behind or nothing
makes it an outline; the same flat surface on both sides makes it a joint, or a seam where the material is the same.
What is drawn twice is drawn once, and pieces that meet are put one after another as the pen would go.
"""

from __future__ import annotations

import threading

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import Tolerances
from warmgraphite.model.bodies import Bodies
from warmgraphite.passes.chains import CHUNK, chained, drawn_once, trim_contours
from warmgraphite.passes.cut import CutSet
from warmgraphite.passes.drawn_edges import (
    Edges,
    columns,
    crossing_edges,
    cut_by_surfaces,
    cut_edges,
    in_metres,
    inside_frame,
    line_elements,
    mesh_edges,
    stretches_of,
    terrain_edges,
)
from warmgraphite.passes.edges import WHOLE, intersections_of
from warmgraphite.passes.kernels import hiding, sides
from warmgraphite.passes.kernels.grid import look_at
from warmgraphite.passes.kernels.records import Pieces
from warmgraphite.passes.line_set import (
    BORDER,
    CREASE,
    KINDS,
    LINE,
    MATERIAL,
    NO_RIM,
    RANKS,
    SEAM_RANK,
    SILHOUETTE,
    SMOOTH,
    TERRAIN,
    LineSet,
)
from warmgraphite.passes.occluders import TOUCH, Occluders
from warmgraphite.passes.terrain import Levels, is_index
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.threads import in_stretches
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Scene
from warmgraphite.view.specification import Lines

__all__ = [
    "ASIDE",
    "lines",
    "split",
]


#: Millimetres of paper beside a line at which its neighbours are asked for.
ASIDE = 0.02


def split(
    projection: Projection,
    tolerances: Tolerances,
    start: NDArray,
    end: NDArray,
    beside: NDArray[np.int32],
    hiders: Occluders,
    progress: Progress,
    least: float | None = None,
) -> tuple[NDArray, ...]:
    """Pieces of edges, from start to end (N, 3) in the frame, by visibility: rows (edge, from, to, hidden, panes).

    What touches an edge does not hide it; a stretch shorter than ``least`` millimetres (that of one place on paper by
    default) between two of the other kind counts as they do.
    """
    near, far = (projection.depth_slack(at[:, 2], tolerances.contact) for at in (start, end))
    pieces = Pieces(start, end, near, far, beside)
    least = tolerances.paper if least is None else least
    memory = threading.local()

    def chunk(first: int, last: int) -> tuple[NDArray, ...]:
        if not hasattr(memory, "seen"):
            memory.seen = np.full(len(hiders.near), -1, np.int32)
        return hiding.split_edges(first, last, pieces, hiders.columns, hiders.grid, TOUCH, least, memory.seen)

    return columns(in_stretches(chunk, len(start), CHUNK, progress))


def _ranked(
    scene: Scene, hiders: Occluders, a: NDArray, b: NDArray, beside: NDArray[np.int32], depth: float, progress: Progress
) -> tuple[NDArray, ...]:
    """Pieces a to b (N, 3, frame) split where their sides change: rows (piece, from, to, what, behind, left, right)."""
    bodies, projection = scene.bodies, scene.projection
    alike = (bodies.material.astype(np.int64) << 8) + np.unique(bodies.role, return_inverse=True)[1]
    height = np.einsum("ij,ij->i", hiders.normal, hiders.corners[:, 0])
    surfaces = sides.Surfaces(hiders.part, alike[hiders.part], hiders.normal, height)
    pieces = Pieces(
        a,
        b,
        projection.depth_slack(a[:, 2], scene.tolerances.contact),
        projection.depth_slack(b[:, 2], scene.tolerances.contact),
        beside,
    )
    eye = sides.Eye(
        np.asarray(np.linalg.inv(projection.matrix), np.float64),
        projection.is_perspective,
        ASIDE,
        depth,
        scene.tolerances.near(5),
    )

    def chunk(first: int, last: int) -> tuple[NDArray, ...]:
        return sides.rank_pieces(first, last, pieces, hiders.columns, hiders.grid, surfaces, eye)

    return columns(in_stretches(chunk, len(a), CHUNK, progress))


def lines(
    scene: Scene, hiders: Occluders, cut: CutSet, asked: Lines, levels: Levels | None, progress: Progress = silent
) -> LineSet:
    """All lines of a scene within its frame: visible ones drawn once, hidden ones apart, both ranked and chained.
    ``asked`` says which edges are lines, ``levels`` where contours run on the ground.
    """
    progress(0.1)
    bodies = Edges.joined(
        [mesh_edges(scene, asked), crossing_edges(scene), terrain_edges(scene, levels), line_elements(scene)]
    )
    if scene.surfaces:
        bodies = Edges.joined([cut_by_surfaces(scene, bodies), cut_edges(scene, cut)])
    edges = inside_frame(scene, bodies)
    progress(0.2)
    start, end = scene.projection.project(edges.start), scene.projection.project(edges.end)
    edge, low, high, hidden, panes = split(
        scene.projection, scene.tolerances, start, end, edges.beside, hiders, part_of(progress, 0.2, 0.5)
    )
    a, b = stretches_of(start, end, edge, low, high)

    # A hidden piece is looked at only for seams, and those only lie where something may touch it.
    touched = intersections_of(scene.bodies).touched
    flush = (edges.kind != CREASE) & (edges.kind != SILHOUETTE)
    for side in edges.beside.T:
        flush |= touched[side] & (side >= 0)
    looked = ~hidden | flush[edge]
    near = np.flatnonzero(looked)
    piece, low, high, what, behind, left, right = _ranked(
        scene, hiders, a[near], b[near], edges.beside[edge[near]], asked.outline_depth, part_of(progress, 0.5, 0.85)
    )
    rest = np.flatnonzero(~looked)
    piece = np.concatenate([near[piece], rest])
    low, high = np.append(low, np.zeros(len(rest))), np.append(high, np.ones(len(rest)))
    what = np.append(what, np.full(len(rest), sides.EDGE, np.int8))
    unknown = hidden[piece]
    behind = np.where(unknown, np.inf, np.append(behind, np.zeros(len(rest))))
    left, right = (
        np.where(unknown, -1, np.append(side, np.zeros(len(rest), np.int32))).astype(np.int32) for side in (left, right)
    )
    a, b = stretches_of(a, b, piece, low, high)
    visible, through = ~hidden[piece], np.minimum(panes[piece], 255).astype(np.uint8)
    edge = edge[piece]
    kind = edges.kind[edge]
    stronger = is_index(levels, edges.start[edge, 2])
    rank = _ranks(scene.bodies, asked.seams, kind, edges.part[edge], what, visible, stronger, (left, right))
    kind[(rank == RANKS.index("surface")) & (what == sides.JOINT) & (kind < TERRAIN)] = MATERIAL
    progress(0.9)

    # The strongest, then the nearest, comes first; what it draws is not drawn again.
    strength = _places(rank, np.minimum(a[:, 2], b[:, 2]))
    groups = [np.flatnonzero(visible), np.flatnonzero(~visible)]
    paper = scene.projection
    row, low, high = drawn_once(a, b, strength, groups, paper.width, paper.height, scene.tolerances.paper)
    a, b = stretches_of(a, b, row, low, high)
    group = (rank[row].astype(np.int64) * 2 + visible[row]) * 2 + (through[row] > 0)
    contour = (kind[row] == SILHOUETTE) & visible[row] & edges.soft[edge[row]]
    trim_contours(a, b, group, contour, scene.tolerances.paper)
    place, turned, chain = chained(a[:, :2], b[:, :2], group)
    # A piece may be walked from its end to its start.
    a, b = np.where(turned[:, None], b[place], a[place]), np.where(turned[:, None], a[place], b[place])
    row = row[place]
    progress(1.0)
    return LineSet(
        start=in_metres(scene, a),
        end=in_metres(scene, b),
        from_mm=_settled(a[:, :2]),
        to_mm=_settled(b[:, :2]),
        kind=kind[row],
        rank=rank[row],
        visible=visible[row],
        through=through[row],
        part=edges.part[edge[row]],
        distance=scene.projection.distance((a[:, 2] + b[:, 2]) / 2),
        behind=behind[row],
        left=np.where(turned, right[row], left[row]),
        right=np.where(turned, left[row], right[row]),
        chain=chain,
        rim=_rims(scene, edges.only(edge[row]), rank[row], a, b),
        span=_span(scene, hiders, edges.part, start, end),
    )


def _span(
    scene: Scene, hiders: Occluders, part: NDArray[np.int32], start: NDArray, end: NDArray
) -> NDArray[np.float64]:
    """(2,) metres from how near to how far what is seen of the model itself lies.
    The middle nineteen of twenty edges, so that one far tree does not make all else near. Figures count for nothing,
    and hide nothing: none of them makes a house paler or darker.
    """
    figure = scene.bodies.figure >= 0
    own = np.flatnonzero(~figure[part])
    middle = (start[own] + end[own]) / 2
    passed = hiders.pane | figure[hiders.part]
    depth = np.concatenate(
        in_stretches(
            lambda a, b: look_at(
                np.ascontiguousarray(middle[a:b, :2]), hiders.forms, passed, hiders.pane, hiders.near, hiders.grid
            )[1],
            len(middle),
            CHUNK,
        )
    )
    seen = middle[:, 2] <= depth + scene.projection.depth_slack(middle[:, 2], scene.tolerances.contact)
    return np.quantile(scene.projection.distance(middle[seen, 2]), [0.02, 0.97]) if seen.any() else np.zeros(2)


def _settled(mm: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places on paper to a millionth of a thousandth of a millimetre.
    Where what hides a line in its middle has parted it, its ends are the same places as before, reckoned from
    elsewhere, and the last digits would tell.
    """
    return np.round(mm * 2.0**30) / 2.0**30  # type: ignore[no-any-return]


def _places(rank: NDArray[np.uint8], near: NDArray[np.float64]) -> NDArray[np.float64]:
    """(N,) in which place each piece comes by its rank and, within that, by how ``near`` it is; equals share one.
    By nothing else: what is added to a drawing elsewhere must not change which of two lines that lie together is drawn.
    """
    order = np.lexsort((near, rank))
    new = (np.diff(rank[order].astype(np.int64)) != 0) | (np.diff(near[order]) != 0)
    place = np.empty(len(rank))
    place[order] = np.append(0, np.cumsum(new))[: len(rank)]
    return place


def _rims(scene: Scene, edges: Edges, rank: NDArray[np.uint8], a: NDArray, b: NDArray) -> NDArray[np.float32]:
    """(N,) where the rims look that pieces a to b (N, 3, frame) of foliage are.
    Away from the corner of their leaf that is not on them.
    """
    found = np.full(len(rank), NO_RIM, np.float32)
    bodies = scene.bodies
    leafy = np.append(bodies.crease >= WHOLE, False)
    rows = np.flatnonzero(
        leafy[edges.part] & (rank == RANKS.index("detail")) & (edges.beside[:, 0] >= 0) & (edges.kind == BORDER)
    )
    if len(rows):
        middle = scene.projection.project(bodies.mesh.vertices[bodies.mesh.triangles[edges.beside[rows, 0]]].mean(1))[
            :, :2
        ]
        out = (a[rows, :2] + b[rows, :2]) / 2 - middle
        found[rows] = np.arctan2(out[:, 1], out[:, 0])
    return found


def _ranks(
    bodies: Bodies,
    seams: bool,
    kind: NDArray[np.uint8],
    part: NDArray[np.int32],
    what: NDArray[np.int8],
    visible: NDArray[np.bool_],
    stronger: NDArray[np.bool_],
    beside: tuple[NDArray[np.int32], NDArray[np.int32]],
) -> NDArray[np.uint8]:
    """The rank of each piece by what it is and what lies beside it.
    ``stronger`` (N,) are those contours that are drawn so.
    """
    left, right = beside
    cut, outline, edge, surface, figure, detail = range(6)
    rank = np.full(len(kind), edge, np.uint8)
    # One sees past the rim of a pane into what the pane shows: it is no outline.
    rank[(what == sides.OUTLINE) & visible & ~bodies.is_glass[part]] = outline
    rank[(what == sides.JOINT) | (kind == SMOOTH)] = surface
    rank[what == sides.SEAM] = surface if seams else SEAM_RANK
    # A contour lies in a surface, whatever is behind it; an index contour is drawn a step stronger.
    contour = np.flatnonzero(kind == TERRAIN)
    rank[contour] = np.where(stronger[contour], edge, surface)
    # A line element bounds nothing: it is an edge, and never an outline or a seam.
    rank[kind == LINE] = edge
    of = np.append(bodies.figure, -1)
    mine = np.flatnonzero((of[part] >= 0) & (rank != SEAM_RANK))
    within = visible[mine] & (of[left[mine]] == of[part[mine]]) & (of[right[mine]] == of[part[mine]])
    rank[mine] = np.where(within, detail, figure)
    # Nobody draws what is hidden of a person, whatever else is dashed.
    rank[mine[~visible[mine]]] = SEAM_RANK
    # Of what is plain on either side only the outline is drawn; what bounds parts stays.
    plain = np.append(bodies.plain, False)
    rank[mine[within & plain[left[mine]] & plain[right[mine]]]] = SEAM_RANK
    # What has lines of its own, as a drawn cut-out has, has no others.
    rank[mine[bodies.quiet[part[mine]] & (kind[mine] != LINE)]] = SEAM_RANK
    rank[mine[visible[mine] & (kind[mine] == LINE)]] = detail
    rank[kind == KINDS.index("cut")] = cut
    return rank
