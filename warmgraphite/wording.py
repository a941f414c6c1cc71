"""Words put together."""

from __future__ import annotations

from collections.abc import Sequence

__all__ = ["listed"]


def listed(words: Sequence[str], joint: str = "and") -> str:
    """Words in a row, the last one with a joint; nothing where there is none."""
    if not words:
        return ""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} {joint} {words[-1]}"
