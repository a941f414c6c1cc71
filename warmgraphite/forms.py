"""Forms made from specifications: title, range, unit and what a field is about stand in the field itself.

What else a form needs to know of a field is in its ``json_schema_extra``: ``unit``, ``least`` and ``most`` of the range
that is drawn along, ``options`` as pairs of value and name, ``sort`` where it is the name of a part set, ``hidden`` for
one that the form leaves out, and ``when`` or ``unless`` other fields have one of some values for one that means
something only then.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Literal, get_args, get_origin

from annotated_types import Ge, Le
from pydantic import Field
from pydantic.fields import FieldInfo

from warmgraphite.specification import Specification

__all__ = ["Setting", "number", "setting", "settings_of", "share"]

#: Fields with the values that they must, or must not, have.
Said = Mapping[str, Sequence[Any]] | None


def setting(default: Any, title: str, about: str = "", *, when: Said = None, unless: Said = None, **more: Any) -> Any:
    """A field as a form shows it; ``when`` and ``unless`` as above."""
    conditions: dict[str, Any] = {n: v for n, v in (("when", when), ("unless", unless)) if v}
    extra = more.pop("json_schema_extra", {})
    return Field(default=default, title=title, description=about, json_schema_extra={**extra, **conditions}, **more)


def share(default: float, title: str, about: str = "", **more: Any) -> Any:
    """A number from 0 to 1."""
    return setting(default, title, about, ge=0, le=1, **more)


def number(
    default: float,
    title: str,
    about: str = "",
    *,
    low: float,
    high: float,
    unit: str = "",
    most: float | None = None,
    **more: Any,
) -> Any:
    """A number from ``low`` to ``high`` in a ``unit``.
    A form draws along as far as ``most``, both ways where it may be below zero.
    """
    least = max(low, -most) if most and low < 0 else None
    extra = {n: v for n, v in (("unit", unit), ("most", most), ("least", least)) if v}
    return setting(default, title, about, ge=low, le=high, json_schema_extra=extra, **more)


class Setting(Specification):
    """One setting as a form shows it.
    ``sort``: share, number, colour, choice, on, dash, or the name of a part set; ``low`` to ``high`` is the range that
    is drawn along, ``initial`` what it is put back to.
    """

    field: str
    title: str
    about: str
    sort: Literal["share", "number", "colour", "choice", "on", "dash", "set"]
    low: float
    high: float
    step: float
    unit: str
    options: tuple[str, ...]
    #: What the options are called, where that is not what they are.
    labels: tuple[str, ...] = ()
    initial: Any
    #: The settings that must have one of these values, and that must have none of these, for this one to mean
    #: something.
    when: dict[str, tuple[Any, ...]] = {}
    unless: dict[str, tuple[Any, ...]] = {}


def settings_of(kind: type[Specification], without: Iterable[str] = ()) -> tuple[Setting, ...]:
    """The settings of a specification, in the order of its fields, but for those ``without``."""
    left_out = set(without)
    rows = ((n, i) for n, i in kind.model_fields.items() if n not in left_out)
    return tuple(
        _setting(name, info)
        for name, info in rows
        if not (isinstance(info.json_schema_extra, dict) and info.json_schema_extra.get("hidden"))
    )


def _setting(name: str, info: FieldInfo) -> Setting:
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    low = next((float(m.ge) for m in info.metadata if isinstance(m, Ge)), 0.0)  # type: ignore[arg-type]
    high = next((float(m.le) for m in info.metadata if isinstance(m, Le)), 1.0)  # type: ignore[arg-type]
    options: tuple[str, ...] = ()
    labels: tuple[str, ...] = ()
    sort: Any = "number"
    if info.annotation is bool:
        sort = "on"
    elif get_origin(info.annotation) is Literal:
        sort, options = "choice", get_args(info.annotation)
    elif isinstance(named := extra.get("options"), list):
        sort, options, labels = "choice", tuple(str(n[0]) for n in named), tuple(str(n[1]) for n in named)  # type: ignore[index]
    elif extra.get("sort") == "set":
        sort = "set"
    elif isinstance(info.default, str):
        sort = "colour"
    elif isinstance(info.default, tuple):
        sort = "dash"
    elif info.annotation is float and (low, high) == (0, 1):
        sort = "share"
    whole = info.annotation is int
    return Setting(
        field=name, title=info.title or name.replace("_", " ").capitalize(), about=info.description or "", sort=sort,
        low=float(extra.get("least", low)),  # type: ignore[arg-type]
        high=float(extra.get("most", high)),  # type: ignore[arg-type]
        step=1 if whole else 0.01, unit=str(extra.get("unit", "")),
        options=options, labels=labels,
        initial=list(info.default) if isinstance(info.default, tuple) else info.default,
        when=extra.get("when", {}), unless=extra.get("unless", {}),  # type: ignore[arg-type]
    )  # fmt: skip
