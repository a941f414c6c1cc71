"""What a process of the application does so that nobody waits for what was known before."""

from __future__ import annotations

import gc

__all__ = ["keep_for_good"]


def keep_for_good() -> None:
    """Say that all that is in memory stays there, so that nobody looks through it again for what is used no more.
    With the compiled kernels and the models that takes an eighth of a second, in the middle of somebody's edit.
    """
    gc.collect()
    gc.freeze()
