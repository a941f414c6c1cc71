"""``warm-graphite``: the application of a release, with the words that ``run`` has in a checkout."""

from __future__ import annotations

import os
import sys

from studio.start import environment
from studio.start import main as start

__all__ = ["main"]

_ABOUT = """warm-graphite demo [--port N]   the application with the sample study, on 127.0.0.1
warm-graphite draw|passes|board|set|photograph ...
                                the same work without a browser; warm-graphite draw --help
warm-graphite --version         which version this is"""


def main() -> None:
    """Start the application, or do a piece of work."""
    words = sys.argv[1:]
    if words[:1] == ["demo"]:
        start(words[1:])
    elif not words or words[0] in ("--help", "-h", "help"):
        print(_ABOUT)
    elif words[0] == "--version":
        from warmgraphite import MADE_BY

        print(MADE_BY)
    else:
        os.environ.update(environment())
        from warmgraphite.cli import main as work

        work()


if __name__ == "__main__":
    main()
