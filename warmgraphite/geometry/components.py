"""What hangs together: the connected components of a graph, by a general library."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["components"]


def components(count: int, a: NDArray[Any], b: NDArray[Any]) -> NDArray[np.int32]:
    """(count,) the number of the component of each of so many things, of which ``a`` (E,) and ``b`` (E,) hang together.
    Numbers rise with the first thing of each (Pearce, "An improved algorithm for finding the strongly connected
    components of a directed graph", 2005, as SciPy has it).
    """
    from scipy.sparse import coo_matrix  # a fifth of a second, which many processes never need
    from scipy.sparse.csgraph import connected_components

    graph = coo_matrix((np.ones(len(a), np.int8), (a, b)), (count, count))
    found: NDArray[np.int32] = connected_components(graph, directed=False)[1]
    return found
