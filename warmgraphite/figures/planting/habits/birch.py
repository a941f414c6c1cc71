"""A birch: slender, pale, airy, its fine ends hanging."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "birch", "Birch", "trees", 11.0, spread=0.42, clear=0.2, leader=0.85, rim=6, trunk=0.012, up=0.22, wander=0.1,
    hangs=0.07, clumps=0.052, lobe=0.024,
    outline=((0.0, 0.3), (0.2, 0.85), (0.4, 1.0), (0.7, 0.72), (0.9, 0.34), (1.0, 0.06)), full=0.7, slow=18.0,
    leaf={"spring": "#bcc58f", "summer": "#9eab7c", "autumn": "#d2b35c"}, bark="#d3ccbe",
)  # fmt: skip
