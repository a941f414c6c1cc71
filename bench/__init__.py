"""Measurements: ./run bench."""
