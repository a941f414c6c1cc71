"""OBJ, as text, with a library of materials beside it. It says neither its unit nor which way is up."""

from __future__ import annotations

from warmgraphite.model.obj import read_obj
from warmgraphite.model.reader import Head, Reader, Told

#: The words that lines begin with.
_WORDS = (b"v", b"o", b"g", b"f", b"l", b"mtllib", b"vn", b"vt")


def _is_obj(head: Head) -> bool:
    return b"\x00" not in head.bytes and any(
        line.split(None, 1)[:1] in [[w] for w in _WORDS] for line in head.bytes.splitlines()
    )


# Its lines say little: all others are asked before.
READER = Reader("obj", "OBJ", 90, _is_obj, lambda path, watch: Told(read_obj(path, watch)), endings=(".obj",))
