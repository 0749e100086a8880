"""Query parameters that lists have in common."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query

Limit = Annotated[int, Query(ge=1, le=200)]
Cursor = Annotated[str | None, Query(max_length=2000)]
Who = Annotated[
    str, Query(max_length=200, description="A person: id, login, number or name; empty is all.")
]
OneOf = Annotated[str, Query(max_length=60)]
"""An id or a number; empty is all."""
