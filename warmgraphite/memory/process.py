"""The memory of this process as the system sees it."""

from __future__ import annotations

import ctypes
import os
import sys
from contextlib import suppress
from pathlib import Path

__all__ = ["give_back", "resident"]


def resident() -> int:
    """Bytes of this process that lie in the machine's memory; 0 where the system does not say."""
    try:
        return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")
    except (OSError, ValueError, IndexError):
        return 0


def give_back() -> None:
    """Give free memory back to the system.
    The C library keeps what was freed for whoever asks next: of arrays of many sizes that becomes more than what is in
    use.
    """
    if sys.platform == "linux":
        with suppress(OSError, AttributeError):
            ctypes.CDLL(None).malloc_trim(0)
