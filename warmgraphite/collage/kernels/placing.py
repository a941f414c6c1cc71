"""Where on its face a pixel lies: metres along it and up it, and how many of them a pixel shows."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device

__all__ = ["place_on", "place_round", "place_run"]


@device(fast=True, borrows=True)
def place_round(x, y, row, faces):
    """Metres along and up a round face, laid flat, at frame millimetres."""
    table, usual, lying = faces.table, faces.usual, faces.lying
    w = 1.0 / (table[row, 3, 0] * x + table[row, 3, 1] * y + table[row, 3, 2])
    u = (table[row, 0, 0] * x + table[row, 0, 1] * y + table[row, 0, 2]) * w
    v = (table[row, 1, 0] * x + table[row, 1, 1] * y + table[row, 1, 2]) * w
    turn = np.arctan2(v, u)
    if turn < 0.0:
        turn += 2.0 * np.pi
    u, v = turn * usual[row], (table[row, 2, 0] * x + table[row, 2, 1] * y + table[row, 2, 2]) * w
    return (v, u) if lying[row] else (u, v)


@device(fast=True, borrows=True)
def place_on(x, y, window, row, faces):
    """Metres along and up a face at frame millimetres, and how much these change.
    They change from there to the next pixel across and down: u, v, then u and v across, u and v down.
    """
    table, usual, across, down = faces.table, faces.usual, window.across, window.down
    if usual[row] > 0.0:
        u, v = place_round(x, y, row, faces)
        ux, vx = place_round(x + across, y, row, faces)
        uy, vy = place_round(x, y + down, row, faces)
        ux, vx, uy, vy = ux - u, vx - v, uy - u, vy - v
        most = 4.0 * usual[row]
        if abs(ux) > most or abs(uy) > most or abs(vx) > most or abs(vy) > most:  # where it begins anew
            ux, vx, uy, vy = 0.0, 0.0, 0.0, 0.0
        return u, v, ux, vx, uy, vy
    # Number by number: a row taken out as an array of its own takes longer than all the rest.
    wx, wy = table[row, 3, 0], table[row, 3, 1]
    ax, ay, bx, by = table[row, 0, 0], table[row, 0, 1], table[row, 1, 0], table[row, 1, 1]
    w = 1.0 / (wx * x + wy * y + table[row, 3, 2])
    u, v = (ax * x + ay * y + table[row, 0, 2]) * w, (bx * x + by * y + table[row, 1, 2]) * w
    i, j = across * w, down * w
    return u, v, (ax - u * wx) * i, (bx - v * wx) * i, (ay - u * wy) * j, (by - v * wy) * j


@device(fast=True, borrows=True)
def place_run(x, y, window, row, table, run):
    """Fill metres along and up a flat face, and how much a pixel shows of both.
    For pixels side by side from (x, y) on.
    """
    us, vs, dus, dvs = run
    across, down = window.across, window.down
    ax, ay, a = table[row, 0, 0], table[row, 0, 1], table[row, 0, 2]
    bx, by, b = table[row, 1, 0], table[row, 1, 1], table[row, 1, 2]
    wx, wy, w = table[row, 3, 0], table[row, 3, 1], table[row, 3, 2]
    a, b, w = a + ay * y, b + by * y, w + wy * y
    for n in range(len(us)):
        px = x + n * across
        i = 1.0 / (wx * px + w)
        u, v = (ax * px + a) * i, (bx * px + b) * i
        us[n], vs[n] = u, v
        dus[n] = max(abs((ax - u * wx) * across), abs((ay - u * wy) * down)) * abs(i)
        dvs[n] = max(abs((bx - v * wx) * across), abs((by - v * wy) * down)) * abs(i)
