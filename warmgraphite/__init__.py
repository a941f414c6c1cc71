"""Warm Graphite's computation core: from a building model to a drawing at scale.

The stages follow one direction, each taking the one before it as a plain argument:
``model`` → ``view`` → ``passes`` → ``ink`` → ``collage`` → ``sheet``. Nothing here knows the web.
"""

__version__ = "0.3.0"
#: What every file that is written says of who wrote it.
MADE_BY = f"Warm Graphite {__version__}"
