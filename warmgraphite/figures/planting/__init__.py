"""Planting, grown by species habits: a skeleton of branches, and the foliage that it carries."""
