"""Compiled inner loops of the passes.
They release the interpreter lock, so callers run them on threads, stretch by stretch.

The idea in plain words, for each kernel, is in the docstring of the module that calls it.
"""
