"""Build-ups: what is cut as it is built, layer by layer, in place of one fill.

``specification`` says what a build-up is, ``kit`` has those of ours; ``sides`` tells the outer from the inner side of
what is cut, ``bands`` makes the layers of its true shape, ``rhythm`` and ``wave`` what stands and runs in them,
``built`` lays all on the paper.
"""

from __future__ import annotations
