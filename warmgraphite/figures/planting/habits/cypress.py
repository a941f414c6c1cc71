"""A cypress: a dark flame."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "cypress", "Cypress", "conifers", 11.0, spread=0.15, clear=0.03, leader=0.9, rim=6, trunk=0.016, up=1.2,
    wander=0.04, clumps=0.034, lobe=0.019, long=2.4,
    outline=((0.0, 0.45), (0.1, 0.85), (0.35, 1.0), (0.7, 0.72), (0.9, 0.36), (1.0, 0.04)), evergreen=True, full=2.0,
    slow=24.0,
    leaf={"summer": "#677a62"}, bark="#82715e",
)  # fmt: skip
