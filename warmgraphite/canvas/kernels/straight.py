"""The loops that make the colours of a picture straight, and go on with them where it is bare."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel

__all__ = ["block_means", "made_smaller", "straight_blocks"]

#: Below this alpha, of 255, the colour of a pixel is too coarse to be told from its premultiplied one.
FAINT = 8


@kernel(
    "u1[:,:,:], i8, i8, i8, f4[:,:,::1]",
    "u1[:,:,::1], i8, i8, i8, f4[:,:,::1]",
)
def block_means(pixels, side, first, last, means):
    """Fill rows ``first`` to ``last`` of ``means`` (bh, bw, 4) with the straight colour of blocks of pixels.
    Blocks are ``side`` pixels of a premultiplied picture (h, w, 4), and how much there is of each.
    """
    height, width = pixels.shape[0], pixels.shape[1]
    for i in range(first, last):
        for j in range(means.shape[1]):
            red = green = blue = total = 0
            for r in range(i * side, min((i + 1) * side, height)):
                for c in range(j * side, min((j + 1) * side, width)):
                    red += pixels[r, c, 0]
                    green += pixels[r, c, 1]
                    blue += pixels[r, c, 2]
                    total += pixels[r, c, 3]
            means[i, j, 3] = total
            if total:
                means[i, j, 0] = 255.0 * red / total
                means[i, j, 1] = 255.0 * green / total
                means[i, j, 2] = 255.0 * blue / total


@kernel(
    "u1[:,:,:], i8, i8, i8, f4[:,:,::1], u1[:,:,::1]",
    "u1[:,:,::1], i8, i8, i8, f4[:,:,::1], u1[:,:,::1]",
)
def straight_blocks(pixels, side, first, last, means, colour):
    """Fill the rows of blocks ``first`` to ``last`` of ``colour`` (h, w, 3) uint8.
    Straight, and the mean of the block where the picture is as good as bare.
    """
    height, width = pixels.shape[0], pixels.shape[1]
    for i in range(first, last):
        for r in range(i * side, min((i + 1) * side, height)):
            for c in range(width):
                alpha = np.int64(pixels[r, c, 3])
                if alpha == 255:
                    for k in range(3):
                        colour[r, c, k] = pixels[r, c, k]
                elif alpha >= FAINT:
                    for k in range(3):
                        colour[r, c, k] = min(255, (np.int64(pixels[r, c, k]) * 255 + alpha // 2) // alpha)
                else:
                    for k in range(3):
                        colour[r, c, k] = np.uint8(min(255.0, means[i, c // side, k] + 0.5))


@kernel("u1[:,:,::1], u1[:,::1], i8, i8, u1[:,:,::1]")
def made_smaller(colour, alpha, by, most, small):
    """Fill ``small`` (h, w, 3) with means of blocks of ``by`` pixels of a picture's straight ``colour`` (H, W, 3).
    How many pixels that leaves off by more than ``most`` of 255 where they are as opaque as ``alpha`` (H, W) says, and
    how many are not bare.
    """
    height, width = alpha.shape
    off = seen = 0
    for i in range(small.shape[0]):
        bottom = min((i + 1) * by, height)
        for j in range(small.shape[1]):
            right = min((j + 1) * by, width)
            red = green = blue = 0
            for r in range(i * by, bottom):
                for c in range(j * by, right):
                    red += colour[r, c, 0]
                    green += colour[r, c, 1]
                    blue += colour[r, c, 2]
            count = (bottom - i * by) * (right - j * by)
            red, green, blue = (red + count // 2) // count, (green + count // 2) // count, (blue + count // 2) // count
            small[i, j, 0], small[i, j, 1], small[i, j, 2] = red, green, blue
            for r in range(i * by, bottom):
                for c in range(j * by, right):
                    if alpha[r, c] == 0:
                        continue
                    seen += 1
                    away = max(abs(colour[r, c, 0] - red), abs(colour[r, c, 1] - green), abs(colour[r, c, 2] - blue))
                    off += away * np.int64(alpha[r, c]) > most * 255
    return off, seen
