"""Compiled loops of ink."""
