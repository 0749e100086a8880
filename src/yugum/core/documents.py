"""Dataclasses as JSON documents: what is not said is left out, so that versions can differ."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import MISSING, fields
from functools import cache
from typing import TYPE_CHECKING, Annotated, Any

import msgspec

if TYPE_CHECKING:
    from _typeshed import DataclassInstance

Scalar = str | int | float | bool | None
if TYPE_CHECKING:
    Json = Scalar | list["Json"] | dict[str, "Json"]
else:  # codecs that read type hints take it as it comes
    Json = Annotated[Any, "JSON"]
Document = Mapping[str, Json]
"""A JSON object at the border: as a table, a queue or a wire carries it, not yet read into its type.

Opaque on purpose: only the codecs look into it.
"""


@cache
def _defaults(kind: type[DataclassInstance]) -> Mapping[str, Json]:
    """The fields of a dataclass that have a default, with it as JSON carries it."""
    found: dict[str, Json] = {}
    for f in fields(kind):
        if f.default_factory is not MISSING:
            found[f.name] = msgspec.to_builtins(f.default_factory())
        elif f.default is not MISSING:
            found[f.name] = msgspec.to_builtins(f.default)
    return found


def full(value: DataclassInstance) -> Document:
    """A dataclass as JSON carries it."""
    return dict(msgspec.to_builtins(value))


def sparse(value: DataclassInstance) -> Document:
    """A dataclass as JSON carries it, less the fields that have their default."""
    default = _defaults(type(value))
    document = msgspec.to_builtins(value)
    return {k: v for k, v in document.items() if k not in default or default[k] != v}
