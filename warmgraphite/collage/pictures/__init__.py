"""Pictures of one's own: taken in clean, kept by their hash, and made endless where they are textures."""
