"""An alder: upright, a little ragged, its crown a blunt cone; it stands by the water."""

from warmgraphite.figures.planting.habit import Habit

HABIT = Habit(
    "alder", "Alder", "trees", 9.0, spread=0.52, clear=0.16, leader=0.8, trunk=0.018, up=0.16, wander=0.14, clumps=0.07,
    lobe=0.038,
    outline=((0.0, 0.45), (0.15, 0.9), (0.35, 1.0), (0.65, 0.78), (0.88, 0.42), (1.0, 0.1)), slow=18.0,
    leaf={"spring": "#a9b585", "summer": "#84936c", "autumn": "#9b8a5c"}, bark="#76695a",
)  # fmt: skip
