"""A round, broad-leaved tree, as limes and maples are."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit("broad-leaved", "Round, broad-leaved", "trees", 10.0, spread=0.78, clear=0.2)
