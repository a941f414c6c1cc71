"""Names for the arrays and records that kernels take.

A kernel says what it takes by the annotations of its arguments: a number (``int``, ``float``, ``bool``), an array of
the names below, or a ``NamedTuple`` of these. A record goes into a loop as cheaply as its columns would one by one.
"""

from __future__ import annotations

import functools
from typing import Annotated, Any, get_type_hints

import numpy as np
from numba import types
from numpy.typing import NDArray

__all__ = [
    "B1",
    "B2",
    "F1",
    "F2",
    "F3",
    "I1",
    "I2",
    "S1",
    "S2",
    "S3",
    "T1",
    "T2",
    "T3",
    "U1",
    "W1",
    "W2",
    "W3",
    "form_of",
    "type_of",
]

#: Floats of eight bytes, of one, two, three axes; rows lie one after another.
F1 = Annotated[NDArray[np.float64], types.float64[::1]]
F2 = Annotated[NDArray[np.float64], types.float64[:, ::1]]
F3 = Annotated[NDArray[np.float64], types.float64[:, :, ::1]]
#: Floats of four bytes.
S1 = Annotated[NDArray[np.float32], types.float32[::1]]
S2 = Annotated[NDArray[np.float32], types.float32[:, ::1]]
S3 = Annotated[NDArray[np.float32], types.float32[:, :, ::1]]
#: Whole numbers of four bytes.
I1 = Annotated[NDArray[np.int32], types.int32[::1]]
I2 = Annotated[NDArray[np.int32], types.int32[:, ::1]]
#: Whole numbers of eight bytes.
W1 = Annotated[NDArray[np.int64], types.int64[::1]]
W2 = Annotated[NDArray[np.int64], types.int64[:, ::1]]
W3 = Annotated[NDArray[np.int64], types.int64[:, :, ::1]]
#: Whole numbers of one byte.
T1 = Annotated[NDArray[np.uint8], types.uint8[::1]]
T2 = Annotated[NDArray[np.uint8], types.uint8[:, ::1]]
T3 = Annotated[NDArray[np.uint8], types.uint8[:, :, ::1]]
#: Whole numbers of eight bytes without a sign: keys of disorder.
U1 = Annotated[NDArray[np.uint64], types.uint64[::1]]
#: Yes or no.
B1 = Annotated[NDArray[np.bool_], types.boolean[::1]]
B2 = Annotated[NDArray[np.bool_], types.boolean[:, ::1]]

_NUMBERS = {int: types.int64, float: types.float64, bool: types.boolean}


def type_of(hint: Any) -> types.Type:
    """The compiler's type for the annotation of an argument or a field."""
    if hint in _NUMBERS:
        return _NUMBERS[hint]
    if hasattr(hint, "_fields"):
        return record_type(hint)
    return hint.__metadata__[0]  # type: ignore[no-any-return]


@functools.cache
def record_type(record: type) -> types.Type:
    """The compiler's type for a ``NamedTuple`` whose fields are annotated."""
    hints = get_type_hints(record, include_extras=True)
    return types.BaseTuple.from_types(tuple(type_of(hints[f]) for f in record._fields), record)  # type: ignore[attr-defined]


def form_of(function: Any) -> tuple[types.Type, ...]:
    """The types of a function's arguments, by their annotations."""
    hints = get_type_hints(function, include_extras=True)
    names = function.__code__.co_varnames[: function.__code__.co_argcount]
    return tuple(type_of(hints[name]) for name in names)
