"""The loop that paints a mirrored picture: moved by ripples, broken by strokes, fading away from what is mirrored."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel
from warmgraphite.noise.kernels import eased, layered_row

__all__ = ["reflect_rows"]

_F = np.float32


@kernel(
    "i8, i8, f8[::1], f8[::1], u1[:,::1], u1[:,::1], i8, i8[::1], i8, u1[:,::1], f4[::1], f8[:,::1], f8[::1], f4[::1], "
    "u1[:,:,::1]",
    fast=True,
)
def reflect_rows(first, last, corner, step, label, share, number, box, side, texels, away, plane, said, sky, out):
    """Fill rows ``first`` to ``last`` of ``out`` (h, w, 4) uint8, premultiplied, where ``label`` (h, w) has the ``number``.

    ``corner`` (2,) and ``step`` (2,) are the window's corner and a pixel in millimetres; ``box`` (4,) the picture's place and size in
    pixels, ``texels`` (n, 4), each ``side`` pixels wide, and ``away`` (n,) metres its own. ``plane`` (3, 3) takes millimetres to metres
    on the mirror, along the paper and into depth. ``said``: ripple, its size in metres, strokes, fade, metres in which it fades, most
    pixels that it may move, seed, how much of the sky is mirrored. ``sky`` (3,) is its colour, 0–255.
    """
    ripple, size, strokes, fade, within, most, seed, open_sky = (
        said[0],
        said[1],
        said[2],
        said[3],
        said[4],
        said[5],
        int(said[6]),
        said[7],
    )
    left, top, wide, high = box[0], box[1], box[2] // side, box[3] // side
    width = out.shape[1]
    u, v = np.empty(width), np.empty(width)
    per = np.empty(width)
    fine, room_x, room_y = np.empty(width, _F), np.empty(width, _F), np.empty(width, _F)
    one, two, three = np.empty(width, _F), np.empty(width, _F), np.empty(width, _F)
    for r in range(first, last):
        any_here = False
        for c in range(width):
            any_here |= label[r, c] == number
        if not any_here:
            continue
        y = corner[1] + (r + 0.5) * step[1]
        for c in range(width):
            x = corner[0] + (c + 0.5) * step[0]
            w = plane[2, 0] * x + plane[2, 1] * y + plane[2, 2]
            w = w if abs(w) > 1e-12 else 1e-12
            u[c] = (plane[0, 0] * x + plane[0, 1] * y + plane[0, 2]) / w
            v[c] = (plane[1, 0] * x + plane[1, 1] * y + plane[1, 2]) / w
            # How far one goes on the mirror in a pixel, across and down: ripples finer than that are not seen.
            y2 = y + step[1]
            w2 = plane[2, 0] * x + plane[2, 1] * y2 + plane[2, 2]
            w2 = w2 if abs(w2) > 1e-12 else 1e-12
            du = (plane[0, 0] * x + plane[0, 1] * y2 + plane[0, 2]) / w2 - u[c]
            dv = (plane[1, 0] * x + plane[1, 1] * y2 + plane[1, 2]) / w2 - v[c]
            x3 = x + step[0]
            w3 = plane[2, 0] * x3 + plane[2, 1] * y + plane[2, 2]
            w3 = w3 if abs(w3) > 1e-12 else 1e-12
            across = abs((plane[0, 0] * x3 + plane[0, 1] * y + plane[0, 2]) / w3 - u[c])
            fine[c] = _F(size / max(abs(dv), abs(du), across, 1e-9))
            per[c] = 1.0 / max(across, 1e-9)
        layered_row(u, v, 3.2 * size, size, 3, seed, fine, room_x, room_y, one)
        layered_row(u, v, 1.1 * size, 0.45 * size, 2, seed + 1, fine, room_x, room_y, two)
        if strokes > 0:
            layered_row(u, v, 9.0 * size, 0.9 * size, 3, seed + 2, fine, room_x, room_y, three)
        for c in range(width):
            if label[r, c] != number:
                continue
            reach = min(ripple * size * 0.5 * per[c], most)
            px = c - left + 0.45 * reach * two[c]
            py = r - top + reach * (one[c] + 0.35 * two[c])
            px, py = (px - 0.5 * (side - 1)) / side, (py - 0.5 * (side - 1)) / side
            px, py = min(max(px, 0.0), wide - 1.001), min(max(py, 0.0), high - 1.001)
            i, j = int(px), int(py)
            a, b = px - i, py - j
            k = j * wide + i
            right = 1 if i + 1 < wide else 0
            below = wide if j + 1 < high else 0
            w00, w10, w01, w11 = (1 - a) * (1 - b), a * (1 - b), (1 - a) * b, a * b
            red = (
                texels[k, 0] * w00 + texels[k + right, 0] * w10 + texels[k + below, 0] * w01 + texels[k + below + right, 0] * w11
            )
            green = (
                texels[k, 1] * w00 + texels[k + right, 1] * w10 + texels[k + below, 1] * w01 + texels[k + below + right, 1] * w11
            )
            blue = (
                texels[k, 2] * w00 + texels[k + right, 2] * w10 + texels[k + below, 2] * w01 + texels[k + below + right, 2] * w11
            )
            solid = (
                texels[k, 3] * w00 + texels[k + right, 3] * w10 + texels[k + below, 3] * w01 + texels[k + below + right, 3] * w11
            ) / 255.0
            far = away[k]
            kept = 1.0 - fade * eased(far / within) if far < 1e8 else 1.0
            red, green, blue, solid = red * kept, green * kept, blue * kept, solid * kept
            clear = (1.0 - solid) * open_sky
            red, green, blue, solid = red + sky[0] * clear, green + sky[1] * clear, blue + sky[2] * clear, solid + clear
            if strokes > 0:
                broken = 1.0 - strokes * eased((three[c] + 0.25 * two[c] - 0.5 + 0.75 * strokes) / 0.3)
                red, green, blue, solid = red * broken, green * broken, blue * broken, solid * broken
            part = share[r, c] / 255.0
            out[r, c, 0] = min(255.0, red * part + 0.5)
            out[r, c, 1] = min(255.0, green * part + 0.5)
            out[r, c, 2] = min(255.0, blue * part + 0.5)
            out[r, c, 3] = min(255.0, 255.0 * solid * part + 0.5)
