"""A willow: a broad dome from which long twigs hang to the ground."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "willow", "Willow", "trees", 9.5, spread=1.05, clear=0.24, leader=0.28, rim=6, trunk=0.036, up=0.05, wander=0.2,
    hangs=0.42, clumps=0.06, lobe=0.026,
    outline=((0.0, 0.4), (0.3, 0.85), (0.55, 1.0), (0.8, 0.85), (0.95, 0.45), (1.0, 0.15)), full=0.8, slow=14.0,
    leaf={"spring": "#c0c98c", "summer": "#a3ae80", "autumn": "#cbb768"}, bark="#857763",
)  # fmt: skip
