"""Views: how the model is looked at, cut and lit, and on what paper; and the one frame that follows from it."""
