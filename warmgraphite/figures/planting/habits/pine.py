"""A pine: a bare, leaning stem, level clouds of needles high up."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "pine", "Pine", "conifers", 13.0, spread=0.55, clear=0.48, leader=0.72, rim=9, trunk=0.02, up=-0.02, wander=0.26,
    lean=0.05, clumps=0.075, lobe=0.03,
    level=0.55, outline=((0.0, 0.35), (0.3, 0.9), (0.6, 1.0), (0.85, 0.75), (1.0, 0.25)), evergreen=True, full=0.9,
    slow=26.0,
    leaf={"summer": "#74856a"}, bark="#a1795c",
)  # fmt: skip
