"""Compiled loops of notes."""
