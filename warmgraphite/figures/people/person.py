"""A person: a build, a pose, clothes and hair, varied by a seed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from warmgraphite.figures.people.build import Build, build_of
from warmgraphite.figures.people.clothes import GARMENTS, Wear
from warmgraphite.figures.people.flesh import arm, hand, head, leg, shoe, trunk
from warmgraphite.figures.people.hair import STYLES, hair
from warmgraphite.figures.people.poses import POSES, Pose
from warmgraphite.figures.people.posture import Posture, Skeleton, skeleton_of
from warmgraphite.figures.piece import Piece, merged
from warmgraphite.memory import remembered
from warmgraphite.model.solids import limb, united

__all__ = ["OUTFITS", "dressed", "person"]

SKIN = ("#e3c4a8", "#d9b08f", "#c4936d", "#a06f4c", "#7a5238")
HAIR = ("#3d332b", "#5b4636", "#7d5f41", "#a98a5d", "#2b2724")
GREY = ("#b8b3aa", "#d5d1c8")
#: Colours of cloth, quiet and from one family.
CLOTH = ("#8c9a94", "#b9a98c", "#7a8289", "#a67c62", "#c7bca7", "#6f7a6b", "#9a8478", "#5f656b", "#cdb98f", "#8d6f66")
DARK = ("#5a5f66", "#6b6259", "#4f5753", "#7b7468", "#5e5048")

#: What is worn together, by how likely it is.
OUTFITS: dict[str, tuple[tuple[str, ...], float]] = {
    "shirt and trousers": (("shirt", "trousers"), 4.0), "shirt and skirt": (("shirt", "skirt"), 1.6),
    "dress": (("dress",), 1.6),
    "coat and trousers": (("shirt", "trousers", "coat"), 1.6), "coat and skirt": (("shirt", "skirt", "coat"), 0.8),
    "apron and trousers": (("shirt", "trousers", "apron"), 0.0), "apron and skirt": (("shirt", "skirt", "apron"), 0.0),
}  # fmt: skip


def _outfit(chance: np.random.Generator, leaves: frozenset[str]) -> tuple[str, ...]:
    rows = [(worn, share) for worn, share in OUTFITS.values() if not leaves & set(worn)]
    shares = np.array([s for _, s in rows])
    chosen = rows[int(chance.choice(len(rows), p=shares / shares.sum()))][0]
    extras = [(name, share) for name, share in (("scarf", 0.14), ("hat", 0.2), ("bag", 0.22)) if name not in leaves]
    return (*chosen, *(name for name, share in extras if chance.random() < share))


def dressed(
    build: Build, posture: Posture, worn: Sequence[str], chance: np.random.Generator, style: str = ""
) -> list[Piece]:
    """A person of a build in a posture, in what is ``worn``."""
    body = skeleton_of(build, posture)
    skin = str(chance.choice(SKIN, p=[0.3, 0.3, 0.2, 0.12, 0.08]))
    old = build.age > 62
    tone = str(chance.choice(GREY if old else HAIR))
    style = style or str(
        chance.choice(
            STYLES if build.hips >= 0 else ("short", "short", "curls", "receding" if build.age > 35 else "short")
        )
    )
    known, on = GARMENTS, frozenset(worn)
    pieces = [Piece.of("skin", skin, *_bare(body, on))]
    cap = hair(body, style, chance)
    if "hat" not in on or style in ("bob", "long", "tail", "bun"):
        pieces.append(Piece.of("hair", tone, united(*cap)))
    shoes = str(chance.choice(DARK))
    pieces.append(Piece.of("shoes", shoes, *(shoe(body, side) for side in (0, 1))))
    lower = str(chance.choice(DARK if chance.random() < 0.7 else CLOTH))
    upper = [str(c) for c in chance.permutation(CLOTH)]
    # What is wholly under a coat is not made.
    on = on - {"shirt"} if "coat" in on else on
    for name in sorted(on, key=lambda n: known[n].order):
        colour = lower if name in ("trousers", "skirt") else "#d8cfbd" if name == "apron" else upper.pop()
        pieces += known[name].make(body, Wear(colour, chance, on))
    return pieces


def _bare(body: Skeleton, worn: frozenset[str]) -> list:
    """What of the skin is seen: head and hands, and arms, legs and trunk where nothing hides them."""
    covers = {c for name in worn for c in GARMENTS[name].covers}
    found = [*head(body), *hand(body, 0), *hand(body, 1)]
    for side in (0, 1):
        if "arms" not in covers:
            found.append(arm(body, side, 0.0, around=8))
        else:
            elbow, wrist = body.elbows[side], body.wrists[side]
            path = np.array([elbow + (wrist - elbow) * t for t in (0.12, 0.6, 1.02)])
            thin = np.array([0.0235, 0.021, 0.017]) * body.build.stature * body.build.girth**0.6
            found.append(limb(path, thin, thin * 0.92, body.turns["chest"] @ np.array([0, 1.0, 0.2]), 6))
    for side in (0, 1):
        if "legs" not in covers:
            found.append(leg(body, side, -0.002))
        else:
            # An ankle between hem and shoe.
            knee, ankle = body.knees[side], body.ankles[side]
            path = np.array([knee + (ankle - knee) * 0.7, ankle, ankle + body.feet[side] @ np.array([0, 0, -0.02])])
            thin = np.array([0.024, 0.0205, 0.024]) * body.build.stature * body.build.girth**0.4
            found.append(limb(path, thin, thin, body.feet[side] @ np.array([1.0, 0, 0]), 8))
    if "trunk" not in covers:
        found.append(trunk(body, ease=-0.004))
    else:
        found.append(trunk(body, 0.98, ease=-0.006, around=8))
    return found


def _shape(body: Skeleton, skirted: bool, chance: np.random.Generator) -> Piece:
    """A person in a hundred and fifty triangles: what is left of one where it is a few millimetres tall on paper."""
    unit, turn = body.build.stature, body.turns["head"]
    side = body.turns["chest"] @ np.array([1.0, 0, 0])
    skull = np.array(
        [
            body.neck,
            body.head - turn @ np.array([0, 0, 0.2]) * body.build.head,
            body.head,
            body.head + turn @ np.array([0, 0, 0.5]) * body.build.head,
        ]
    )
    meshes = [
        limb(skull, np.array([0.03, 0.034, 0.045, 0.012]) * unit, np.array([0.03, 0.038, 0.055, 0.012]) * unit, side, 6)
    ]
    trunk_ = np.array([body.hip - body.turns["hip"] @ np.array([0, 0, 0.05]) * unit, body.waist, body.chest, body.neck])
    meshes.append(
        limb(trunk_, np.array([0.095, 0.085, 0.115, 0.04]) * unit, np.array([0.07, 0.06, 0.07, 0.04]) * unit, side, 6)
    )
    for k in (0, 1):
        arm_ = np.array([body.shoulders[k], body.elbows[k], body.wrists[k] * 1.3 - body.elbows[k] * 0.3])
        meshes.append(
            limb(arm_, np.array([0.034, 0.028, 0.018]) * unit, np.array([0.034, 0.028, 0.018]) * unit, side, 4)
        )
        foot = body.ankles[k] + body.feet[k] @ np.array([0, 0.05, -0.03]) * unit
        leg_ = np.array([body.hips[k], body.knees[k], body.ankles[k], foot])
        wide = np.array([0.06, 0.05 if not skirted else 0.07, 0.03, 0.03]) * unit
        meshes.append(limb(leg_, wide, wide, side, 4))
    return Piece.of("shape", str(chance.choice(CLOTH)), *meshes)


# Many arguments: what tells one person from another, each with what is usual.
@remembered("people")
def person(
    pose: str, age: float = 34.0, height: float | None = None, seed: int = 0, fits: float | None = None,
    outfit: str = "", extras: tuple[str, ...] = (), detail: int = 0,
    coarsely: bool = False,
) -> tuple[Piece, ...]:  # fmt: skip
    """A person who does something, feet on z = 0, facing +y; ``fits`` is the height in metres of what is touched.
    The same numbers make the same person. ``outfit`` is one of :data:`OUTFITS`, by chance where nothing is said;
    ``extras`` are garments besides. From ``detail`` 2 on it is no more than its shape; ``coarsely`` it has half the
    faces.
    """
    kind: Pose = POSES[pose]
    chance = np.random.default_rng([seed, 7])
    girth = float(np.clip(chance.normal(1.0, 0.05), 0.9, 1.14))
    hips = float(chance.choice([-1.0, 1.0])) * float(chance.uniform(0.4, 1.0))
    stature = height
    if stature is None and age >= 13:
        usual = build_of(age).stature
        stature = usual + (-0.045 if hips > 0 else 0.035) + float(np.clip(chance.normal(0, 0.035), -0.08, 0.08))
    build = replace(build_of(age, stature, girth, hips), fine=0.5 if coarsely else 1.0)
    worn = OUTFITS[outfit][0] if outfit else _outfit(chance, kind.leaves)
    if not outfit and hips < 0:
        worn = tuple("trousers" if g in ("skirt", "dress") else g for g in worn)
        worn = worn if "shirt" in worn else (*worn, "shirt")
    worn = tuple(dict.fromkeys(g for g in (*worn, *extras) if g not in kind.leaves))
    if "legs" not in {c for g in worn for c in GARMENTS[g].covers} and not {"skirt", "dress"} & set(worn):
        worn = (*worn, "trousers")
    touched = kind.height if fits is None else fits
    posture = kind.posture(build, touched, chance)
    if detail >= 2:
        return (_shape(skeleton_of(build, posture), bool({"skirt", "dress"} & set(worn)), chance),)
    pieces = dressed(build, posture, worn, chance)
    if kind.things:
        pieces += kind.things(skeleton_of(build, posture), touched, chance)
    found = merged(pieces)
    low = min(float(p.points[:, 2].min()) for p in found if p.name == "shoes") if posture.seat is None else 0.0
    return tuple(replace(p, points=p.points - [0, 0, low]) for p in found)
