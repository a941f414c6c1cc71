"""An independent judge of passes: rays through a general mesh library, sharing no code with the engine."""

from __future__ import annotations

import numpy as np
import trimesh

from warmgraphite.model import Model
from warmgraphite.view.specification import ViewSpecification

__all__ = ["Judge"]


class Judge:
    """The cut model as one mesh, cut and capped by the mesh library, and rays against it."""

    def __init__(self, model: Model, view: ViewSpecification) -> None:
        meshes = []
        for i, part in enumerate(model.parts):
            mesh = trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part == i], process=True)
            for cut in view.cuts:
                if part.role in ("furniture", "planting", "people"):
                    side = (mesh.vertices - cut.point) @ np.array(cut.normal, float)
                    if side.min() > 0:
                        mesh = trimesh.Trimesh()
                    continue
                mesh = trimesh.intersections.slice_mesh_plane(
                    mesh, -np.array(cut.normal, float), cut.point, cap=mesh.is_watertight, engine="earcut"
                )
                if mesh.is_empty:
                    break
            if not mesh.is_empty and not model.part_is_glass[i]:
                meshes.append((i, mesh))
        self.mesh = trimesh.util.concatenate([m for _, m in meshes])
        self.part = np.repeat([i for i, _ in meshes], [len(m.faces) for _, m in meshes])
        self.origin = self.mesh.bounds.mean(0)
        self.mesh.apply_translation(-self.origin)

    def first(self, origins: np.ndarray, directions: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Distance of the first hit (infinite for none) and the part that is hit (−1)."""
        ray = self.mesh.ray
        triangle = ray.intersects_first(origins - self.origin, directions)
        distance = np.full(len(origins), np.inf)
        rows = np.flatnonzero(triangle >= 0)
        normal = self.mesh.face_normals[triangle[rows]]
        point = self.mesh.triangles[triangle[rows], 0]
        start = origins[rows] - self.origin
        along = (normal * directions[rows]).sum(1)
        distance[rows] = ((point - start) * normal).sum(1) / np.where(np.abs(along) < 1e-9, 1e-9, along)
        return distance, np.where(triangle >= 0, self.part[triangle], -1)
