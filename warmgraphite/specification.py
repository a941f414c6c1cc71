"""What all specifications share: strict fields, and one sentence for what is wrong with them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Annotated

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from warmgraphite.errors import ViewError

__all__ = ["Colour", "Specification", "Wanted", "Words", "describe_faults", "tidy", "valid"]


Colour = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]


class Specification(BaseModel):
    """Base of all specifications: unknown fields are an error that names them."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Wanted(Specification):
    """How a pass is wanted, where it is not of what a query means."""


@contextmanager
def valid(what: str) -> Iterator[None]:
    """Whatever is not valid within raises :class:`ViewError`: one sentence about ``what``."""
    try:
        yield
    except ValidationError as error:
        raise ViewError(describe_faults(error, what)) from None


def tidy(words: object) -> object:
    """Words without what no page can show: control characters become spaces."""
    return re.sub(r"[\x00-\x1f\x7f-\x9f\u2028\u2029\ufffe\uffff]", " ", words) if isinstance(words, str) else words


def describe_faults(error: ValidationError, what: str) -> str:
    """One sentence for a failed validation: each field with what is wrong with it."""
    rows = []
    for fault in error.errors()[:4]:
        place = ".".join(str(p) for p in fault["loc"] if p not in ("perspective", "parallel", "oblique")) or what
        if fault["type"] == "extra_forbidden":
            rows.append(f"“{place}” is not a field it can have")
        elif fault["type"] == "missing":
            rows.append(f"“{place}” is missing")
        else:
            message = fault["msg"].removeprefix("Value error, ")
            rows.append(f"“{place}”: {message[:1].lower()}{message[1:]}")
    more = len(error.errors()) - len(rows)
    return f"{what}: " + "; ".join(rows) + (f"; and {more} more" if more > 0 else "") + "."


#: A name or a line of text as it may stand on a drawing.
Words = Annotated[str, BeforeValidator(tidy)]
