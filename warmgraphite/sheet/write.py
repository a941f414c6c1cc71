"""A drawing as a file."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.specification import Trace
from warmgraphite.out.format import About
from warmgraphite.out.settings import OutSettings
from warmgraphite.out.write import write_leaves
from warmgraphite.progress import Progress, silent
from warmgraphite.sheet.page import page_leaf
from warmgraphite.sheet.specification import Sheet
from warmgraphite.view.scales import scale_label

__all__ = ["about_of", "write_drawing"]


def about_of(plate: Plate, sheet: Sheet) -> About:
    """What the file of a drawing says of itself."""
    scale = plate.projection.scale
    said = scale_label(scale) if scale and not plate.projection.is_perspective else ""
    subject = ", ".join(w for w in (plate.view_name, said) if w)
    return About(
        f"{plate.study_name}: {sheet.title or plate.view_name}",
        subject,
        tuple(w for w in (plate.study_name, said) if w),
    )


def write_drawing(
    plate: Plate, traces: Sequence[Trace], sheet: Sheet, path: Path, *, watch: Progress = silent, **said: Any
) -> None:
    """Write the drawing in the format of the path's ending; ``said`` are fields of :class:`OutSettings`.
    ``watch`` is told the share that is drawn, and may raise to stop.

    Raises :class:`OutputError` for an unknown ending or a place that cannot be written to.
    """
    settings = OutSettings(**said)
    plate = replace(plate, by_layers="model" in settings.layers)
    write_leaves(
        [page_leaf(plate, traces, sheet, paper=settings.paper, merged=not settings.layers, watch=watch)],
        path,
        settings,
        about_of(plate, sheet),
    )
