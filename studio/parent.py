"""A process of the application ends with the one that started it.
However that one ended, and begins its work when that one says.
"""

from __future__ import annotations

import os
import signal
import threading
import time

__all__ = ["end_with_parent", "wait_for_gate"]


def end_with_parent(seconds: float = 0.5) -> None:
    """From now on, look whether the process that started this one is there still, and end when it is not.

    A process that is killed hard cannot end what it started, and a second start would share the data folder with what
    is left.
    """
    parent = int(os.environ.get("WARMGRAPHITE_PARENT") or 0)
    if not parent:
        return

    def look() -> None:
        while os.getppid() == parent:
            time.sleep(seconds)
        if os.getpgrp() == os.getpid():
            os.killpg(0, signal.SIGKILL)  # with all that this one started in its turn
        os._exit(1)

    threading.Thread(target=look, daemon=True, name="parent").start()


def wait_for_gate() -> None:
    """Wait until the other end of the pipe that this process was given is closed; at once where it was given none."""
    gate = int(os.environ.pop("WARMGRAPHITE_GATE", "-1"))
    if gate >= 0:
        with os.fdopen(gate, "rb") as end:
            end.read()
