"""A drawing: one view of one model with its passes, each computed at most once for the same inputs.

Here the stages meet: :mod:`~warmgraphite.drawing.graph` says what a pass is, :mod:`~warmgraphite.drawing.records` which
there are, :mod:`~warmgraphite.drawing.inputs` what they read of a :mod:`~warmgraphite.drawing.specification`, and
:mod:`~warmgraphite.drawing.running` computes them.
"""

from warmgraphite.drawing.drawing import ALWAYS, Bench, Drawing, Looked, Stale, needs_of
from warmgraphite.drawing.graph import PASSES
from warmgraphite.needs import Need

__all__ = ["ALWAYS", "PASSES", "Bench", "Drawing", "Looked", "Need", "Stale", "needs_of"]
