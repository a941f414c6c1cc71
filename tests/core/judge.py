"""An independent judge of passes: a camera, cuts and rays of its own, through a general mesh library.

It shares no code with the engine. Of a line set it reads what is handed to a user: ends in metres and what they are
said to be.
"""

from __future__ import annotations

import numpy as np
import trimesh
from scipy.spatial import cKDTree

from warmgraphite.model import Model
from warmgraphite.passes.line_set import KINDS, LineSet
from warmgraphite.view.specification import Oblique, Perspective, ViewSpecification

__all__ = ["Camera", "Judge"]

#: Millimetres beside a line at which the judge looks past it.
BESIDE = 0.012


def dot(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """(N,) row by row; many times quicker than to sum over an axis of three."""
    return np.einsum("ij,ij->i", a, b)


class Camera:
    """A view's frame, worked out from the view file alone.
    It needs a scale and a centre where the projection is parallel.
    """

    def __init__(self, view: ViewSpecification) -> None:
        spec, frame = view.projection, view.frame
        self.half = np.array([frame.width, frame.height]) / 2
        self.eye = np.array(spec.eye, float) if isinstance(spec, Perspective) else None
        forward = (
            np.array(spec.target, float) - self.eye
            if isinstance(spec, Perspective)
            else np.array(spec.direction, float)
        )
        self.lift = 0.0
        if isinstance(spec, Perspective) and spec.upright:
            self.lift = forward[2] / np.hypot(forward[0], forward[1])
            forward = forward * [1, 1, 0]
        self.forward = forward / np.linalg.norm(forward)
        up = np.array([0, 0, 1.0]) if isinstance(spec, Perspective) and spec.upright else np.array(spec.up, float)
        up = up - (up @ self.forward) * self.forward
        self.up = up / np.linalg.norm(up)
        self.right = np.cross(self.forward, self.up)
        self.slide = np.zeros(2)
        if isinstance(spec, Perspective):
            self.focal = self.half[0] / np.tan(np.radians(spec.field_of_view) / 2)
        else:
            assert frame.scale and spec.centre is not None
            self.per_metre = 1000.0 / frame.scale
            self.centre = np.array(spec.centre, float)
            if isinstance(spec, Oblique):
                angle = np.radians(spec.receding_angle)
                self.slide = spec.receding_ratio * np.array([np.cos(angle), np.sin(angle)])

    def flat(self, points: np.ndarray) -> np.ndarray:
        """(N, 2) millimetres from the frame's top left corner of points (N, 3)."""
        moved = points - (self.eye if self.eye is not None else self.centre)
        x, y, depth = moved @ self.right, moved @ self.up, moved @ self.forward
        if self.eye is not None:
            x, y = self.focal * x / depth, self.focal * (y / depth - self.lift)
        else:
            x, y = self.per_metre * (x + self.slide[0] * depth), self.per_metre * (y + self.slide[1] * depth)
        return np.column_stack([self.half[0] + x, self.half[1] - y])

    def rays(self, flat: np.ndarray, back: float) -> tuple[np.ndarray, np.ndarray]:
        """Origins and unit directions of the sight lines through frame points.
        Parallel ones start ``back`` metres before the plane through the centre.
        """
        x, y = flat[:, 0] - self.half[0], self.half[1] - flat[:, 1]
        if self.eye is not None:
            way = (
                self.forward + (x / self.focal)[:, None] * self.right + (y / self.focal + self.lift)[:, None] * self.up
            )
            return np.broadcast_to(self.eye, way.shape), way / np.linalg.norm(way, axis=1, keepdims=True)
        way = self.forward - self.slide[0] * self.right - self.slide[1] * self.up
        at = self.centre + (x / self.per_metre)[:, None] * self.right + (y / self.per_metre)[:, None] * self.up
        unit = way / np.linalg.norm(way)
        return at - back * unit, np.broadcast_to(unit, at.shape)


class Judge:
    """The cut model as one mesh, cut and capped by the mesh library, and rays against it.
    Glass is left out: it hides nothing.
    """

    def __init__(self, model: Model, view: ViewSpecification) -> None:
        meshes = []
        self.model = model
        for i, part in enumerate(model.parts):
            if model.parts.is_glass[i]:
                continue
            mesh = trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part == i], process=True)
            for cut in view.cuts:
                side = (mesh.vertices - cut.point) @ np.array(cut.normal, float)
                if side.min() > 0:
                    mesh = trimesh.Trimesh()
                    break
                if side.max() <= 0 or (cut.role == "cut" and part.role in ("furniture", "planting", "people")):
                    continue
                whole, shut = mesh, mesh.is_watertight
                mesh = trimesh.intersections.slice_mesh_plane(
                    whole, -np.array(cut.normal, float), cut.point, cap=shut, engine="earcut"
                )
                if not shut and (section := whole.section(plane_normal=cut.normal, plane_origin=cut.point)) is not None:
                    # A body with a crack elsewhere is cut where its section closes all the same.
                    flat, lift = section.to_2D()
                    for polygon in flat.polygons_full:
                        points, faces = trimesh.creation.triangulate_polygon(polygon, engine="earcut")
                        cap = trimesh.Trimesh(np.column_stack([points, np.zeros(len(points))]), faces).apply_transform(
                            lift
                        )
                        mesh = trimesh.util.concatenate([mesh, cap])
                if mesh.is_empty:
                    break
            if not mesh.is_empty:
                self._lift_caps(mesh, view, part.material)
                meshes.append((i, mesh))
        self.mesh = trimesh.util.concatenate([m for _, m in meshes])
        self.part = np.repeat([i for i, _ in meshes], [len(m.faces) for _, m in meshes])
        self.origin = self.mesh.bounds.mean(0)
        self.mesh.apply_translation(-self.origin)
        self.reach = float(np.linalg.norm(self.mesh.extents))
        role = {name: k for k, name in enumerate(sorted({p.role for p in model.parts}))}
        self.alike = np.array([p.material * 100 + role[p.role] for p in model.parts])

    def _lift_caps(self, mesh: trimesh.Trimesh, view: ViewSpecification, material: int) -> None:
        """Where two bodies that are cut overlap, the material that comes first in the model shows.
        Its cap is lifted a hair more.
        """
        for cut in view.cuts:
            normal = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
            on = np.abs((mesh.vertices - cut.point) @ normal) < 1e-6
            rows = np.flatnonzero(on[mesh.faces].all(1))
            if len(rows):
                corners = (
                    mesh.vertices[mesh.faces[rows]].reshape(-1, 3)
                    + 4e-4 * (len(self.model.materials) - material) * normal
                )
                faces = mesh.faces.copy()
                faces[rows] = len(mesh.vertices) + np.arange(3 * len(rows)).reshape(-1, 3)
                lifted = trimesh.Trimesh(np.concatenate([mesh.vertices, corners]), faces, process=False)
                mesh.vertices, mesh.faces = lifted.vertices, lifted.faces

    def hits(self, origins: np.ndarray, directions: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Distance of the first hit (infinite for none) and the triangle that is hit (−1)."""
        triangle = self.mesh.ray.intersects_first(
            np.ascontiguousarray(origins - self.origin), np.ascontiguousarray(directions)
        )
        distance = np.full(len(origins), np.inf)
        rows = np.flatnonzero(triangle >= 0)
        distance[rows] = self.along(triangle[rows], origins[rows], directions[rows])
        return distance, triangle

    def along(self, triangle: np.ndarray, origins: np.ndarray, directions: np.ndarray) -> np.ndarray:
        """Where rays meet the planes of triangles."""
        normal = self.mesh.face_normals[triangle]
        lean = dot(normal, directions)
        gap = dot(self.mesh.triangles[triangle, 0] - (origins - self.origin), normal)
        return gap / np.where(np.abs(lean) < 1e-9, 1e-9, lean)

    def first(self, origins: np.ndarray, directions: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Distance of the first hit (infinite for none) and the part that is hit (−1)."""
        distance, triangle = self.hits(origins, directions)
        return distance, np.where(triangle >= 0, self.part[triangle], -1)

    def obstructed(
        self, camera: Camera, lines: LineSet, rows: np.ndarray, slack: float
    ) -> tuple[np.ndarray, np.ndarray]:
        """For samples of the chosen lines.
        On how many sides something stands before them, and the millimetres each stands for.

        A ray is sent past the line on either side: where a line runs exactly behind an outline, one of the two is free.
        """
        points, flat, side, weight = self.samples(camera, lines, rows)
        blocked = np.zeros(len(flat), int)
        for sign in (-1, 1):
            origins, directions = camera.rays(flat + sign * BESIDE * side, self.reach)
            distance, _ = self.hits(origins, directions)
            depth = dot(points - origins, directions)
            blocked += distance < depth - slack * (1 + 0.05 * np.abs(depth) * (camera.eye is not None))
        return blocked, weight

    def samples(
        self, camera: Camera, lines: LineSet, rows: np.ndarray, step: float = 0.6
    ) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """Points along the chosen lines about every ``step`` mm.
        Metres, frame mm, unit across on paper, mm each stands for.
        """
        start, end = lines.start[rows], lines.end[rows]
        a, b = camera.flat(start), camera.flat(end)
        length = np.linalg.norm(b - a, axis=1)
        count = np.maximum(1, np.ceil(length / step)).astype(int)
        which = np.repeat(np.arange(len(rows)), count)
        t = (np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count) + 0.5) / count[which]
        points = start[which] + t[:, None] * (end - start)[which]
        way = (b - a)[which] / np.maximum(length[which], 1e-12)[:, None]
        return points, camera.flat(points), np.column_stack([-way[:, 1], way[:, 0]]), (length / count)[which]

    def _differ(
        self, origins: tuple, directions: tuple, distance: tuple, triangle: tuple, least_turn: float
    ) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Of two rays each whether they part.
        That is, whether they meet another thing, at another depth than its surface goes on to, or a turned surface.
        """
        one, two = triangle
        hit = (one >= 0) & (two >= 0)
        other = (one >= 0) != (two >= 0)
        rows = np.flatnonzero(hit)
        part = self.part[one[rows]], self.part[two[rows]]
        other[rows] = self.alike[part[0]] != self.alike[part[1]]
        step = np.zeros(len(one), bool)
        # The nearer of the two says what goes on; a step is where the other is not there.
        goes_on = self.along(one[rows], origins[1][rows], directions[1][rows])
        back = self.along(two[rows], origins[0][rows], directions[0][rows])
        # On ground seen at a grazing angle the next pixel lies far on, and a slight bend a good deal farther.
        tolerance = 0.03 + 1e-3 * distance[0][rows] + 0.5 * np.abs(goes_on - distance[0][rows])
        step[rows] = (np.abs(goes_on - distance[1][rows]) > tolerance) & (np.abs(back - distance[0][rows]) > tolerance)
        turn = np.zeros(len(one), bool)
        even = np.abs(dot(self.mesh.face_normals[one[rows]], self.mesh.face_normals[two[rows]]))
        turn[rows] = even < np.cos(np.radians(least_turn))
        return other, step, turn

    def missing(self, camera: Camera, lines: LineSet, width: int = 1100) -> float:
        """The share of discontinuities of a ray-cast picture farther than two pixels from a drawn line.

        A discontinuity is where neighbouring pixels see unlike things, a step in depth, or a surface that turns by more
        than thirty degrees at once while it is even on both sides.
        """
        height = round(width * camera.half[1] / camera.half[0])
        pixel = 2 * camera.half[0] / width
        x, y = np.meshgrid((np.arange(width) + 0.5) * pixel, (np.arange(height) + 0.5) * pixel)
        flat = np.column_stack([x.ravel(), y.ravel()])
        origins, directions = camera.rays(flat, self.reach)
        distance, triangle = self.hits(origins, directions)
        at = np.arange(width * height).reshape(height, width)
        places = []
        normal = np.where((triangle >= 0)[:, None], self.mesh.face_normals[triangle], 0)
        for one, two, before, after in (
            (at[:, 1:-2], at[:, 2:-1], at[:, :-3], at[:, 3:]),
            (at[1:-2], at[2:-1], at[:-3], at[3:]),
        ):
            p, q, o, r = (k.ravel() for k in (one, two, before, after))
            other, step, turn = self._differ(
                (origins[p], origins[q]),
                (directions[p], directions[q]),
                (distance[p], distance[q]),
                (triangle[p], triangle[q]),
                30,
            )
            found = other | step
            rows = np.flatnonzero(turn & ~found)
            even = (dot(normal[p[rows]], normal[o[rows]]) > 0.996) & (dot(normal[q[rows]], normal[r[rows]]) > 0.996)
            found[rows[even]] = True
            places.append((flat[p[found]] + flat[q[found]]) / 2)
        places = self.places = np.concatenate(places)
        visible = np.flatnonzero(lines.visible)
        _, drawn, _, _ = self.samples(camera, lines, visible, 0.1)
        ends = camera.flat(np.concatenate([lines.start[visible], lines.end[visible]]))
        gap, _ = cKDTree(np.concatenate([drawn, ends])).query(places)
        self.missed = gap > 2 * pixel
        return float(self.missed.mean())

    def idle(self, camera: Camera, lines: LineSet) -> float:
        """The share of drawn lines on which nothing changes from side to side.
        Of silhouettes, borders, creases and intersections.
        """
        kinds = [KINDS.index(k) for k in ("silhouette", "border", "crease", "intersection")]
        rows = np.flatnonzero(lines.visible & np.isin(lines.kind, kinds) & ~self.model.parts.is_glass[lines.part])
        _, flat, side, weight = self.samples(camera, lines, rows)
        seen = []
        for sign in (-1, 1):
            origins, directions = camera.rays(flat + sign * BESIDE * side, self.reach)
            seen.append((origins, directions, *self.hits(origins, directions)))
        other, step, turn = self._differ(*zip(*seen, strict=True), 1.0)
        return float(weight[~(other | step | turn)].sum() / weight.sum())

    def light(
        self, view: ViewSpecification, origins: np.ndarray, directions: np.ndarray, ray: np.ndarray
    ) -> np.ndarray:
        """For sight rays: 0 lit, 1 in cast shadow, 2 turned away from the sun, 3 nothing or a cut.
        By rays towards ``ray``.
        """
        distance, triangle = self.hits(origins, directions)
        found = np.full(len(origins), 3)
        hit = np.flatnonzero(triangle >= 0)
        normal = self.mesh.face_normals[triangle[hit]]
        normal = normal * np.where(dot(normal, directions[hit]) > 0, -1.0, 1.0)[:, None]
        points = origins[hit] + distance[hit, None] * directions[hit]
        cut = np.zeros(len(hit), bool)
        for plane in view.cuts:
            if plane.role == "cut":
                across = np.array(plane.normal) / np.linalg.norm(plane.normal)
                # Caps are lifted a hair by their order, and past their rims one sees what they close.
                beyond = (points - plane.point) @ across
                cut |= (beyond > -2e-5) & (beyond < 0.012)
        turned = normal @ ray
        found[hit] = np.where(turned > 1e-4, 0, 2)
        found[hit[cut]] = 3
        asked = np.flatnonzero((turned > 1e-4) & ~cut)
        start = points[asked] + 5e-4 * normal[asked]
        blocked = self.mesh.ray.intersects_any(start - self.origin, np.broadcast_to(ray, start.shape))
        found[hit[asked[blocked]]] = 1
        return found
