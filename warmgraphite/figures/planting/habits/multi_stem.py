"""A small tree of several stems from one root."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "multi-stem", "Multi-stem", "trees", 6.0, spread=0.85, clear=0.24, stems=4, lean=0.05, leader=0.45, trunk=0.012,
    up=0.12, wander=0.18, clumps=0.085,
    lobe=0.04, outline=((0.0, 0.4), (0.3, 0.85), (0.6, 1.0), (0.85, 0.7), (1.0, 0.2)), full=0.75, slow=12.0,
    leaf={"spring": "#bcc192", "summer": "#9aa67d", "autumn": "#c98a57"}, bark="#94877a",
)  # fmt: skip
