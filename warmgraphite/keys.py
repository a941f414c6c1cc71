"""Keys: names for what is made of something, the same for the same."""

from __future__ import annotations

import hashlib
import json
from dataclasses import fields, is_dataclass
from typing import Any

from pydantic import BaseModel

from warmgraphite.sources import digest_of

__all__ = ["key_of", "plain"]


def plain(value: Any) -> Any:
    """A record of inputs as JSON, without what it only holds."""
    if isinstance(value, BaseModel):
        return plain(value.model_dump(mode="json"))
    if is_dataclass(value) and not isinstance(value, type):
        return {f.name: plain(getattr(value, f.name)) for f in fields(value) if not f.metadata.get("held")}
    if isinstance(value, dict):
        return {str(k): plain(v) for k, v in value.items()}
    if isinstance(value, float) and value.is_integer():
        return int(value)  # 24 and 24.0 are read alike, and which of them is held depends on where it came from
    return [plain(v) for v in value] if isinstance(value, list | tuple) else value


def key_of(name: str, *inputs: Any, by: str | tuple[str, ...] = ()) -> str:
    """The name under which something with these inputs (JSON values) is kept.
    ``by`` are the modules that make it, whose sources count.
    """
    made_by = (by,) if isinstance(by, str) else by
    text = json.dumps([name, digest_of(*made_by) if made_by else "", inputs], sort_keys=True, separators=(",", ":"))
    return f"{name}-{hashlib.sha256(text.encode()).hexdigest()[:32]}"
