"""Light, shade, shadow and corners in a few flat tones, as shapes."""
