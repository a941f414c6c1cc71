"""A fruit tree: low, with a short stem and a crown of open, crooked branches."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "fruit tree", "Fruit tree", "trees", 4.6, spread=0.92, clear=0.28, leader=0.3, trunk=0.03, up=0.06, wander=0.38,
    clumps=0.10, lobe=0.05,
    outline=((0.0, 0.5), (0.25, 0.95), (0.5, 1.0), (0.8, 0.75), (1.0, 0.2)), full=1.1, slow=10.0,
    leaf={"spring": "#e6d3cd", "summer": "#98a678", "autumn": "#c79b55"},
)  # fmt: skip
