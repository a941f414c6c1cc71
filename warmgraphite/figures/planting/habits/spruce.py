"""A spruce: a cone of whorls, lower branches drooping."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "spruce", "Spruce", "conifers", 14.0, spread=0.40, clear=0.05, leader=1.0, trunk=0.015, up=-0.42, wander=0.02,
    lobe=0.02, long=2.0, whorls=17,
    outline=((0.0, 0.9), (0.08, 1.0), (0.5, 0.56), (0.8, 0.24), (1.0, 0.03)), evergreen=True, full=1.0, slow=24.0,
    leaf={"summer": "#6c7d66"},
    bark="#7b6a58",
)  # fmt: skip
