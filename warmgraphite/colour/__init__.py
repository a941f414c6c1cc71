"""Colour: as it is written, how light it is, where its hue lies, and how it goes with an opacity.
All of it is sRGB (IEC 61966-2-1).
"""

from warmgraphite.colour.alpha import premultiplied, straighten, straightened
from warmgraphite.colour.hues import from_oklab, to_oklab
from warmgraphite.colour.light import LUMINANCE, encoded, is_light, lightness, linear, luminance
from warmgraphite.colour.text import Channels, channels, of_shares, shares, written

__all__ = [
    "LUMINANCE",
    "Channels",
    "channels",
    "encoded",
    "from_oklab",
    "is_light",
    "lightness",
    "linear",
    "luminance",
    "of_shares",
    "premultiplied",
    "shares",
    "straighten",
    "straightened",
    "to_oklab",
    "written",
]
