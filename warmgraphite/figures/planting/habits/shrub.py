"""A shrub: many stems from the ground, round and loose."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "shrub", "Shrub", "shrubs", 1.9, spread=1.15, clear=0.06, stems=5, lean=0.08, leader=0.3, trunk=0.014, up=0.1,
    wander=0.25, clumps=0.15, lobe=0.075,
    outline=((0.0, 0.7), (0.25, 1.0), (0.6, 0.9), (0.85, 0.6), (1.0, 0.2)), slow=5.0,
    leaf={"spring": "#b5bf92", "summer": "#94a17a", "autumn": "#b98a5c"},
)  # fmt: skip
