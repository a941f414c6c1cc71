"""Compiled loops of the canvas."""
