"""Figures: people, planting, vehicles, animals and things that stand in the model, grown of numbers and a seed."""
