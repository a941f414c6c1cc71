"""Compiled loops of the collage: unevenness, distances, washes and textures."""
