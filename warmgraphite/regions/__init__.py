"""The map of a drawing: what replaces selecting by hand.

Lines, cut outlines and edges of light part the frame into cells. Each knows what is seen in it; a query asks for cells
by what they are, and gets a shape and a mask with exact edges, at any size.
"""

from warmgraphite.regions.map import RegionMap
from warmgraphite.regions.mapping import region_map
from warmgraphite.regions.query import Query

__all__ = ["Query", "RegionMap", "region_map"]
