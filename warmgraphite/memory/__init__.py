"""What is kept in memory for whoever asks for it again.
Weighed in bytes, in one budget for a process, each thing made once.

A store is a :class:`Store` with a name; a function whose answers are kept is :func:`remembered`; what belongs to a
frozen thing is :class:`derived` of it. Nothing here knows what is kept.
"""

from warmgraphite.memory.derived import beside, derived, share, tell
from warmgraphite.memory.store import BUDGET, MISSING, Budget, Held, Store, remembered
from warmgraphite.memory.weight import Weight, weight_of

__all__ = [
    "BUDGET",
    "MISSING",
    "Budget",
    "Held",
    "Store",
    "Weight",
    "beside",
    "derived",
    "remembered",
    "share",
    "tell",
    "weight_of",
]
