"""Building a release: one wheel with the front end, the faces and the samples in it."""
