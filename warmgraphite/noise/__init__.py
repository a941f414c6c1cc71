"""Unevenness: numbers that belong to a place and a seed, and to nothing else.

So it is the same in a window, at another zoom, and next year. :mod:`~warmgraphite.noise.hashing` makes numbers of whole
numbers, in 64 bits where each is looked at, and alike in loops; :mod:`~warmgraphite.noise.value` joins heights on a
lattice, for whole rasters; :mod:`~warmgraphite.noise.kernels` has the same for use inside compiled loops, and gradient
noise a row at a time, which hashes in 32 bits because processors then work on several places at once. Steps that are
level at both ends are :func:`~warmgraphite.noise.easing.eased`.
"""
