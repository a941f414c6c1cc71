"""Passes: what is computed from a scene, each a pure function of its inputs, all in one frame."""
