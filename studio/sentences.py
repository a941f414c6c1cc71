"""One sentence for what the machine below us cannot do, and for what a request asks that nobody can answer."""

from __future__ import annotations

import errno

from django.db import OperationalError

__all__ = ["BUSY", "FULL", "no_room", "refusal"]

FULL = "The disk is full, so this was not done and nothing was lost; make room on it and try again."
BUSY = "Too much is being stored at this moment, so this was not done; try it again."
_REFUSALS = {
    400: "This request cannot be understood; nothing was changed.",
    403: "This request was refused.",
    404: "There is nothing at this address; it may have been removed. Go back to all studies.",
    405: "This address cannot be asked in that way.",
    413: "This is larger than can be taken in at once.",
    431: "This address is longer than can be taken in at once.",
    500: "This could not be done because of a fault of ours; the server's log says more. Nothing was changed.",
    503: BUSY,
    507: FULL,
}


def no_room(error: BaseException) -> str:
    """The sentence for a full disk or a database that others keep locked; empty for any other error."""
    if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
        return FULL
    said = str(error).lower()
    if isinstance(error, OperationalError) or type(error).__name__ == "OperationalError":
        if "full" in said or "disk i/o" in said:
            return FULL
        if "locked" in said or "busy" in said:
            return BUSY
    return ""


def refusal(status: int) -> str:
    """The sentence for an answer with this status."""
    return _REFUSALS.get(status, _REFUSALS[400 if status < 500 else 500])
