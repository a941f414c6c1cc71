"""Loops over pixels."""

from __future__ import annotations

import numpy as np

from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.kernels import kernel
from warmgraphite.kernels.records import B1, B2, F1, F2, I1, I2, S1, S2, W1
from warmgraphite.passes.kernels.pixel_records import (
    EdgePixels,
    Evening,
    Floor,
    PixelGrid,
    Planes,
    Rays,
    Shading,
    Shown,
    Sighted,
    Standing,
)

__all__ = [
    "clear_specks",
    "edge_values",
    "facing_rows",
    "fan",
    "points_of",
    "rim_pixels",
    "smooth_alike",
    "stand_on",
    "tones_of",
]


@kernel()
def stand_on(points: F2, triangle: I1, seen: Sighted, floor: Floor, out: Standing):
    """Fill in, for frame points (N, 2) on triangles, where rays set out.
    And how the surface is turned, as the viewer sees it.

    ``start`` (N, 3) metres about ``middle``, lifted off the surface; ``flat`` (N, 3) its unit normal; ``bent`` (N, 3)
    the mean of the normals ``smooth`` at the corners of the model's triangle. Returns (N,) where all this is so: not
    where nothing is seen, nor on a cut.
    """
    frame, normal, source, inverse, eye, sight, central = seen
    model_corner, smooth, lift, middle = floor
    start, flat, bent = out
    n = len(points)
    good = np.zeros(n, np.bool_)
    at = np.empty(3)
    for i in range(n):
        t = triangle[i]
        for k in range(3):
            start[i, k] = flat[i, k] = bent[i, k] = 0.0
        if t < 0 or source[t] < 0:
            continue
        a = frame[t, 0]
        ux, uy = frame[t, 1, 0] - a[0], frame[t, 1, 1] - a[1]
        vx, vy = frame[t, 2, 0] - a[0], frame[t, 2, 1] - a[1]
        area = ux * vy - uy * vx
        if area == 0.0:
            continue
        px, py = points[i, 0] - a[0], points[i, 1] - a[1]
        p = (px * vy - py * vx) / area
        q = (ux * py - uy * px) / area
        z = a[2] + p * (frame[t, 1, 2] - a[2]) + q * (frame[t, 2, 2] - a[2])
        w = inverse[3, 0] * points[i, 0] + inverse[3, 1] * points[i, 1] + inverse[3, 2] * z + inverse[3, 3]
        for k in range(3):
            at[k] = (
                inverse[k, 0] * points[i, 0] + inverse[k, 1] * points[i, 1] + inverse[k, 2] * z + inverse[k, 3]
            ) / w
        away = 0.0
        for k in range(3):
            away += normal[t, k] * ((at[k] - eye[k]) if central else sight[k])
        turn = -1.0 if away > 0 else 1.0
        # Where the point lies on the whole triangle that this one was cut from.
        corner = model_corner[source[t]]
        uu = uv = vv = wu = wv = 0.0
        for k in range(3):
            u = corner[1, k] - corner[0, k]
            v = corner[2, k] - corner[0, k]
            d = at[k] - corner[0, k]
            uu += u * u
            uv += u * v
            vv += v * v
            wu += d * u
            wv += d * v
        det = uu * vv - uv * uv
        if det <= 0.0:
            continue
        b1 = min(max((vv * wu - uv * wv) / det, 0.0), 1.0)
        b2 = min(max((uu * wv - uv * wu) / det, 0.0), 1.0)
        b0 = max(1.0 - b1 - b2, 0.0)
        for k in range(3):
            bent[i, k] = turn * (
                b0 * smooth[source[t], 0, k] + b1 * smooth[source[t], 1, k] + b2 * smooth[source[t], 2, k]
            )
            flat[i, k] = turn * normal[t, k]
            start[i, k] = at[k] + turn * normal[t, k] * lift - middle[k]
        good[i] = True
    return good


@kernel(borrows=True)
def points_of(pixels: W1, grid: PixelGrid, dx: F1, dy: F1, out: F2):
    """Fill in the frame points (N, 2) of flat pixel numbers of a window, moved by dx, dy (N,) or (1,) pixels."""
    width, left, top, wide, high = grid
    many = len(dx) > 1
    for i in range(len(pixels)):
        k = i if many else 0
        out[i, 0] = (pixels[i] % width + left + 0.5 + dx[k]) * wide
        out[i, 1] = (pixels[i] // width + top + 0.5 + dy[k]) * high


@kernel(borrows=True)
def tones_of(bent: S2, good: B1, ray: F1, shading: Shading, out: S1):
    """Fill in the tone 0–1 (N,) of curved normals (N, 3).
    They need not be of length one, 0 where they are not ``good``.
    """
    night, steps, strength, half, back, sky, ground, ambient = shading
    for i in range(len(bent)):
        out[i] = 0.0
        if not good[i]:
            continue
        x, y, z = bent[i, 0], bent[i, 1], bent[i, 2]
        size = max(np.sqrt(x * x + y * y + z * z), NO_LENGTH)
        turn = x * ray[0] + y * ray[1] + z * ray[2]
        if night:
            turn = 0.0
        elif steps > 0:
            step = min(max(np.ceil(turn * steps), 0.0), float(steps))
            turn = (step - 0.5) / steps if step > 0.0 else -0.2
        else:
            turn /= size
        lit = max(turn, 0.0)
        tone = half - half * strength * lit - back * strength * min(turn, 0.0)
        up = z / size
        tone -= 0.45 * (1.0 - lit) * (sky * (1.0 + up) / 2.0 + ground * (1.0 - up) / 2.0)
        out[i] = min(max(tone * (1.0 - ambient), 0.0), 1.0)


@kernel(borrows=True)
def facing_rows(standing: Standing, good: B1, triangle: I1, receives: B1, ray: S1, least: float, out: Rays):
    """Of points (N), those that are ``good``, on triangles that receive, and face along ``ray`` by more than ``least``.

    They are filled in first; returns how many there are.
    """
    start, flat, row, ray_start = standing.start, standing.flat, out.row, out.start
    count = 0
    for i in range(len(good)):
        if not good[i] or not receives[triangle[i]]:
            continue
        if flat[i, 0] * ray[0] + flat[i, 1] * ray[1] + flat[i, 2] * ray[2] > least:
            row[count] = i
            for m in range(3):
                ray_start[count, m] = start[i, m]
            count += 1
    return count


@kernel(
    "f4[:,::1], f4[:,::1], f4[:,::1], f4[::1], f8, f4[:,::1], f4[:,::1]",
)
def fan(start, axis, disc, turn, wide, rays_start, rays_way):
    """Fill in (N · S) rays that set out from N points about their unit axes (N, 3).

    ``disc`` (S, 2) are points of the unit disc, turned by ``turn`` (N,) radians for each point. With ``wide`` 0 they
    are raised to the hemisphere, so that rays are as dense as the cosine; else the disc, so wide, stands at distance
    one.
    """
    count = len(disc)
    for i in range(len(start)):
        nx, ny, nz = axis[i, 0], axis[i, 1], axis[i, 2]
        # Two axes across (Duff et al., "Building an orthonormal basis, revisited", 2017).
        sign = 1.0 if nz >= 0.0 else -1.0
        a = -1.0 / (sign + nz)
        b = nx * ny * a
        ux, uy, uz = 1.0 + sign * nx * nx * a, sign * b, -sign * nx
        vx, vy, vz = b, sign + ny * ny * a, -ny
        c, s = np.cos(turn[i]), np.sin(turn[i])
        for k in range(count):
            x = c * disc[k, 0] - s * disc[k, 1]
            y = s * disc[k, 0] + c * disc[k, 1]
            if wide > 0.0:
                x, y, z = wide * x, wide * y, 1.0
                size = np.sqrt(x * x + y * y + 1.0)
                x, y, z = x / size, y / size, z / size
            else:
                z = np.sqrt(max(1.0 - x * x - y * y, 0.0))
            row = i * count + k
            rays_way[row, 0] = x * ux + y * vx + z * nx
            rays_way[row, 1] = x * uy + y * vy + z * ny
            rays_way[row, 2] = x * uz + y * vz + z * nz
            for m in range(3):
                rays_start[row, m] = start[i, m]


@kernel("f4[:,::1], b1[:,::1], i4[:,::1], i4[::1], i8, i8, f4[:,::1]")
def clear_specks(picture, faces, triangle, part, first, last, out):
    """Rows ``first`` to ``last`` of ``out``: the picture (h, w) less specks of one or two pixels.

    Of the pixels about one, two to either side, those count that face the sun (``faces``) and are of the same part. A
    ray that slips through where bodies only touch, or is caught there, leaves such a speck; what is thin but real is
    longer.
    """
    height, width = picture.shape
    for r in range(first, last):
        for c in range(width):
            value = picture[r, c]
            out[r, c] = value
            if not faces[r, c]:
                continue
            own = part[triangle[r, c]]
            alike = 0
            others = 0
            other = value
            for r2 in range(max(r - 2, 0), min(r + 3, height)):
                for c2 in range(max(c - 2, 0), min(c + 3, width)):
                    if not faces[r2, c2] or part[triangle[r2, c2]] != own:
                        continue
                    if picture[r2, c2] == value:
                        alike += 1
                    else:
                        others += 1
                        other = picture[r2, c2]
                if alike > 2:
                    break
            if alike <= 2 and others >= 16:
                out[r, c] = other


@kernel(borrows=True)
def smooth_alike(value: S2, wanted: B2, seen: Shown, planes: Planes, evening: Evening, first: int, last: int, out: S2):
    """Rows ``first`` to ``last`` of ``out``.
    ``wanted`` pixels averaged with those about them that lie on the same surface.

    The window is just so wide that a pattern that repeats every four pixels is gone. Two pixels lie on one surface when
    they are of one part, face one way, and the plane of the one goes through the other, within ``near`` metres.
    ``pixel`` (4,) are the millimetres of one, and the place of the first of them in the frame.
    """
    triangle, distance = seen
    forms, normal, part = planes
    pixel, central, near = evening
    height, width = value.shape
    for r in range(first, last):
        for c in range(width):
            out[r, c] = value[r, c]
            t = triangle[r, c]
            if t < 0 or not wanted[r, c]:
                continue
            total = 0.0
            weight = 0.0
            for dr in range(-2, 3):
                r2 = r + dr
                if r2 < 0 or r2 >= height:
                    continue
                wr = 0.5 if abs(dr) == 2 else 1.0
                y = (r2 + pixel[3] + 0.5) * pixel[1]
                for dc in range(-2, 3):
                    c2 = c + dc
                    if c2 < 0 or c2 >= width:
                        continue
                    u = triangle[r2, c2]
                    if u < 0 or not wanted[r2, c2]:
                        continue
                    if u != t:
                        if part[u] != part[t]:
                            continue
                        even = normal[t, 0] * normal[u, 0] + normal[t, 1] * normal[u, 1] + normal[t, 2] * normal[u, 2]
                        if abs(even) < 0.85:
                            continue
                        z = forms[t, 9] * (c2 + pixel[2] + 0.5) * pixel[0] + forms[t, 10] * y + forms[t, 11]
                        far = 1.0 / max(1.0 - z, NO_LENGTH) if central else z
                        if abs(far - distance[r2, c2]) > near:
                            continue
                    w = wr * (0.5 if abs(dc) == 2 else 1.0)
                    total += w * value[r2, c2]
                    weight += w
            out[r, c] = total / weight


@kernel(borrows=True)
def edge_values(value: S2, triangle: I2, planes: Planes, bare: B1, edges: EdgePixels, first: int, last: int, out: S1):
    """Edge pixels ``first`` to ``last``.
    The mean over their subsamples (E, 8) of what pixels by them have on that surface.

    ``value`` (h, w) belongs to the middles of pixels; ``bare`` (T,) says on which triangles it is 0.
    """
    normal, part, edge_pixel, edge_triangle = planes.normal, planes.part, edges.pixel, edges.triangle
    height, width = value.shape
    samples = edge_triangle.shape[1]
    for e in range(first, last):
        r, c = edge_pixel[e] // width, edge_pixel[e] % width
        total = 0.0
        for k in range(samples):
            t = edge_triangle[e, k]
            if t < 0 or bare[t]:
                continue
            found = value[r, c] if triangle[r, c] >= 0 else 0.0
            best = 9.0
            for dr in range(-1, 2):
                for dc in range(-1, 2):
                    r2, c2 = r + dr, c + dc
                    if r2 < 0 or c2 < 0 or r2 >= height or c2 >= width:
                        continue
                    u = triangle[r2, c2]
                    if u < 0 or bare[u] or part[u] != part[t]:
                        continue
                    even = normal[t, 0] * normal[u, 0] + normal[t, 1] * normal[u, 1] + normal[t, 2] * normal[u, 2]
                    away = dr * dr + dc * dc + (0.0 if u == t else 4.0 * (1.0 - abs(even)) + 0.5)
                    if away < best and abs(even) > 0.7:
                        best = away
                        found = value[r2, c2]
            total += found
        out[e] = total / samples


@kernel("i8[:,::1], i4[:,::1], f8[:,::1], f8")
def rim_pixels(code, triangle, normal, bend):
    """(h, w) pixels beside one with another code, or whose surface faces more than ``bend`` (per axis) another way."""
    height, width = code.shape
    rim = np.zeros((height, width), np.bool_)
    for r in range(height):
        for c in range(width):
            for step in range(2):
                r2 = r + step
                c2 = c + 1 - step
                if r2 >= height or c2 >= width:
                    continue
                differ = code[r, c] != code[r2, c2]
                if not differ:
                    s = triangle[r, c]
                    t = triangle[r2, c2]
                    if s >= 0 and t >= 0 and s != t:
                        for k in range(3):
                            if abs(normal[s, k] - normal[t, k]) > bend:
                                differ = True
                if differ:
                    rim[r, c] = True
                    rim[r2, c2] = True
    return rim
