"""A poplar: a column of upright branches."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "poplar", "Poplar", "trees", 18.0, spread=0.20, clear=0.08, leader=0.9, rim=6, trunk=0.016, up=0.95, wander=0.06,
    clumps=0.045, lobe=0.019, long=1.6,
    outline=((0.0, 0.35), (0.12, 0.8), (0.4, 1.0), (0.75, 0.8), (0.93, 0.4), (1.0, 0.06)), slow=16.0, full=1.6,
    leaf={"spring": "#b0bb85", "summer": "#8c9b6c", "autumn": "#cdb058"},
)  # fmt: skip
