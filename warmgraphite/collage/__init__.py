"""The collage: sheets of tracing paper, each with a source, laid over one another into the picture."""
