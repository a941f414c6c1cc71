"""The canvas: one drawing protocol, and the backends that it draws on. It knows nothing of a drawing."""
