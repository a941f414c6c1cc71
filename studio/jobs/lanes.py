"""Which work makes way for which: what somebody looks at and waits for never stands behind what takes minutes."""

from __future__ import annotations

import threading
from dataclasses import dataclass, field

from django.db.models import Q

__all__ = ["AHEAD", "FIRST", "LANES", "SLOW", "Lane", "lane_of"]

#: What somebody looks at and waits for, the more the higher, goes before all else.
FIRST = {"passes": 2, "suns": 1, "board": 1}
#: What is made before anybody asks.
AHEAD = ("picture",)
#: What is written or printed whole, at its full resolution, while somebody goes on with something else.
SLOW = ("export", "board_export", "bundle", "set", "set_pack", "write_model", "pack", "pack_finish", "proof")


@dataclass(frozen=True)
class Lane:
    """Kinds of work of which a worker does so many at once, however many wait.
    Without kinds, all that are in no other lane.

    ``way`` is for how many seconds in all each of them rests while something is looked at and waited for: that would
    have to share the processors with it.
    """

    at_once: int
    kinds: tuple[str, ...] = ()
    way: float = 0.0
    room: threading.Semaphore = field(init=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "room", threading.Semaphore(self.at_once))

    @property
    def jobs(self) -> Q:
        """Which jobs are in this lane."""
        return Q(kind__in=self.kinds) if self.kinds else ~Q(kind__in=[k for lane in LANES for k in lane.kinds])


#: A worker has a thread for each place of each lane, so that none of them ever waits for another.
LANES = (Lane(2), Lane(2, SLOW, way=60.0), Lane(1, AHEAD, way=20.0))


def lane_of(kind: str) -> Lane:
    """Where jobs of a kind go."""
    return next((lane for lane in LANES if kind in lane.kinds), LANES[0])
