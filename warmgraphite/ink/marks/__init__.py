"""Marks of one's own: what is drawn that the model lacks, on a plane of the model or on the paper.
And the line of the ground.

``specification`` says what a mark is, ``planes`` where it lies and how it goes along with the face under it, ``shapes``
what each kind looks like, ``seen`` what of it is seen on the paper, ``ground`` the earth below a line, ``snapping``
what points catch on.
"""

from __future__ import annotations
