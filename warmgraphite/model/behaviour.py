"""What a role means to a drawing: whether a plane cuts it, whether one sees through it, how strongly it is drawn."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

__all__ = ["BEHAVIOUR", "CUT_ORDER", "ROLES", "Behaviour", "Role"]

Role = Literal[
    "structure", "envelope", "glass", "furniture", "ground", "water", "planting", "people", "context", "subject"
]  # fmt: skip
ROLES: tuple[Role, ...] = (
    "structure", "envelope", "glass", "furniture", "ground", "water", "planting", "people", "context", "subject"
)  # fmt: skip


@dataclass(frozen=True)
class Behaviour:
    """``cut``: a cutting plane goes into it; ``clear``: it is a pane that hides nothing; ``drawn``.
    The weight of its lines against the others'; ``poche``: what fills it where it is cut, ``void`` for nothing;
    ``glazing``: where it is clear it counts as glass, over which a tone of glass lies and behind which things are
    paler: a wire mesh is clear, and is not.
    """

    cut: bool = True
    clear: bool = False
    drawn: Literal["soft", "plain", "strong"] = "plain"
    poche: Literal["solid", "earth", "void"] = "solid"
    glazing: bool = False


#: The trade's habit. Nobody saws a chair or a tree in half; the ground is hatched as earth; neighbours stay soft.
BEHAVIOUR: dict[str, Behaviour] = {
    "structure": Behaviour(),
    "envelope": Behaviour(),
    "glass": Behaviour(clear=True, glazing=True),
    "furniture": Behaviour(cut=False),
    "ground": Behaviour(poche="earth"),
    "water": Behaviour(),
    "planting": Behaviour(cut=False, drawn="soft"),
    "people": Behaviour(cut=False, drawn="soft"),
    "context": Behaviour(drawn="soft"),
    "subject": Behaviour(drawn="strong"),
}

#: Which role's materials prevail where cut bodies overlap, when nothing else is said: structure first, earth last.
CUT_ORDER: tuple[Role, ...] = (
    "structure", "subject", "envelope", "furniture", "context", "glass", "people", "planting", "water", "ground"
)  # fmt: skip
