"""Notes of a drawing: what they say, where they lie, and how they are written.

A note comes from the model, or hangs on it, wherever it can: then it is right after every change of model and camera.
Each kind is one module in ``kinds``.
"""
