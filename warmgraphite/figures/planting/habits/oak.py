"""An oak: wide, heavy limbs, a crown in several masses."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "oak", "Oak", "trees", 13.0, spread=1.02, clear=0.17, leader=0.25, trunk=0.034, up=0.02, wander=0.34, clumps=0.095,
    lobe=0.038,
    outline=((0.0, 0.5), (0.15, 0.95), (0.4, 1.0), (0.65, 0.85), (0.88, 0.5), (1.0, 0.15)), slow=40.0,
    leaf={"spring": "#b5b483", "summer": "#87936a", "autumn": "#b0824e"}, bark="#7d7060",
)  # fmt: skip
