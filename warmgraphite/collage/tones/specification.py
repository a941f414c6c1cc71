"""What tones are followed, as it is asked for."""

from __future__ import annotations

from pydantic import Field

from warmgraphite.specification import Wanted

__all__ = ["TonesSpec"]


class TonesSpec(Wanted):
    """How many tones there are, the paper's among them, and how dark shade, shadow and corners are, of 1."""

    steps: int = Field(default=5, ge=2, le=10)
    shade: float = Field(default=0.45, ge=0, le=1)
    shadow: float = Field(default=0.55, ge=0, le=1)
    corners: float = Field(default=0.5, ge=0, le=1)

    @property
    def darkest(self) -> float:
        """How dark it is where all come together."""
        return 1 - (1 - max(self.shadow, self.shade)) * (1 - self.corners)
