"""The six saved views that the sample study comes with, its part sets and its contours."""

from __future__ import annotations

import numpy as np

from demo.notes import sample_rooms
from warmgraphite.model.model import Contours, Model
from warmgraphite.view.specification import (
    Cut,
    FigureChoice,
    Frame,
    Parallel,
    Perspective,
    Sun,
    ViewSpecification,
)

__all__ = ["sample_views", "with_sample_words"]


def sample_views() -> list[ViewSpecification]:
    """Long section perspective, cross section, plan, street elevation, cutaway axonometric, view from the pond."""
    south = Cut(point=(0, 4, 0), normal=(0, -1, 0))
    return [
        ViewSpecification(
            name="Long section, perspective",
            projection=Perspective(eye=(12.7, -17.5, 2.3), target=(12.7, 4, 4.5), field_of_view=72, upright=True),
            cuts=(south,),
            sun=Sun(azimuth=205, altitude=46),
            frame=Frame(width=420, height=297),
        ),
        ViewSpecification(
            name="Cross section 1:50",
            projection=Parallel(direction=(1, 0, 0), centre=(0, 3.2, 4.75)),
            cuts=(Cut(point=(5.88, 0, 0), normal=(-1, 0, 0)), Cut(point=(27, 0, 0), normal=(1, 0, 0), role="limit")),
            sun=Sun(azimuth=232, altitude=42),
            frame=Frame(width=420, height=297, scale=50),
        ),
        ViewSpecification(
            name="Plan",
            projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(12.7, 3.0, 0)),
            cuts=(Cut(point=(0, 0, 1.25), normal=(0, 0, 1)),),
            sun=Sun(azimuth=220, altitude=50),
            frame=Frame(width=420, height=297, scale=100),
        ),
        ViewSpecification(
            name="Street elevation",
            projection=Parallel(direction=(0, -1, 0), centre=(11.5, 9, 8.1)),
            cuts=(Cut(point=(0, 14.5, 0), normal=(0, 1, 0)),),
            figures=FigureChoice(groups=("At work", "On the deck", "Grasses", "Reed")),
            sun=Sun(azimuth=300, altitude=34),
            frame=Frame(width=420, height=170, scale=100),
        ),
        ViewSpecification(
            name="Cutaway axonometric",
            projection=Parallel(direction=(0.42, 1.0, -0.60), centre=(12.9, 4, 2.6)),
            cuts=(Cut(point=(0, 4, 0), normal=(0, -1, 0)),),
            sun=Sun(azimuth=235, altitude=44),
            frame=Frame(width=420, height=297, scale=100),
        ),
        ViewSpecification(
            name="From the pond",
            projection=Perspective(eye=(29, -19, -0.55), target=(13.2, 1, 2.0), field_of_view=64, upright=True),
            figures=FigureChoice(groups=("Street",)),
            sun=Sun(azimuth=160, altitude=38),
            frame=Frame(width=420, height=297),
        ),
    ]


def with_sample_words(model: Model) -> Model:
    """The sample model with contours on its slope, its rooms, and two part sets to begin with."""
    roles = model.parts.role
    sets = {
        "House and site": np.ones(len(roles), bool),
        "Shell only": np.isin(roles, ["structure", "envelope", "glass", "ground", "water"]),
    }
    return model.said(
        contours=Contours(0.5, 5),
        rooms=sample_rooms(),
        sets={name: tuple(np.flatnonzero(rows).tolist()) for name, rows in sets.items()},
    )
