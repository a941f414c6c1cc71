"""Compiled loops of soft regions: brushes, and distances to drawn outlines."""
