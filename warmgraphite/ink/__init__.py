"""Ink: pens by what a line is, poche by what is cut; line work and filled masses ready to be drawn."""
