"""Compile the kernels beside the application.
Those of a first drawing as fast as the machine can, the rest when it has nothing else to do.
"""

from __future__ import annotations

import os

from studio.parent import end_with_parent

__all__ = ["main"]


def main() -> None:
    """Compile what is not kept."""
    from warmgraphite.kernels.__main__ import compile_all, is_complete

    if is_complete():
        return
    cores = os.cpu_count() or 1
    compile_all(cores, first=True)
    compile_all(1, nice=19)


if __name__ == "__main__":
    end_with_parent()
    main()
