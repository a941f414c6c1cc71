"""Models: named parts with materials and roles, the readers that fill them, the writer that keeps them."""

from warmgraphite.model.behaviour import ROLES
from warmgraphite.model.model import Model, build_model
from warmgraphite.model.palette import Material
from warmgraphite.model.parts import Part

__all__ = ["ROLES", "Material", "Model", "Part", "build_model"]
