"""What the compiler asks again and again is asked once, which takes a fifth of its time.

For each ``a + b`` and each ``a[i]`` it goes through every sort of sum and of item that there is, of words, sets and
dates, too, and writes down of each why it is none of these. What it found for the same function and the same types is
remembered here, unless it was an implementation that had to be compiled: that one is looked up by the compiler itself.
"""

from __future__ import annotations

from typing import Any

from numba.core.types import Array, BaseTuple, Boolean, NoneType, Number, SliceType
from numba.core.types.functions import BaseFunction

__all__ = ["remember"]

#: Types that are what they are called; of others, as of lists, more becomes known while a function is read.
_SETTLED = Array | BaseTuple | Boolean | NoneType | Number | SliceType
_ask = BaseFunction.get_call_type
_answers: dict[tuple[int, tuple], tuple[BaseFunction, Any]] = {}


def _remembered(self: BaseFunction, context: Any, args: tuple, kws: dict) -> Any:
    if kws or not all(isinstance(a, _SETTLED) for a in args):
        return _ask(self, context, args, kws)
    found = _answers.get((id(self), args))
    if found is None:
        sig: Any = _ask(self, context, args, kws)
        known: dict[tuple, Any] = vars(self)["_impl_keys"]
        if known.get(sig.args) != self.typing_key:
            return sig
        # The function is kept, too: while it is, no other has its number.
        found = _answers[id(self), args] = self, sig
    return found[1]


def remember() -> None:
    """Have the compiler remember, in this process."""
    BaseFunction.get_call_type = _remembered  # type: ignore[assignment, method-assign]
