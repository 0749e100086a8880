"""Query parameters that lists have in common."""

from __future__ import annotations

import re
from datetime import date
from typing import Annotated

from fastapi import Depends, Query
from pydantic import AfterValidator, AwareDatetime, BeforeValidator

from yugum.api.auth import Use, Viewer
from yugum.wire.texts import LINE, one_line, shape, written

OneLine = (AfterValidator(one_line), shape(pattern=LINE))
"""What a text of a query is held to beside its length."""
Limit = Annotated[int, Query(ge=1, le=200)]
Cursor = Annotated[str | None, Query(max_length=2000)]
Begin = Annotated[
    date | None, Query(description="The first day; ninety before the last one if left out.")
]
End = Annotated[date | None, Query(description="The last day; today if left out.")]
Who = Annotated[
    str,
    Query(max_length=200, description="A person: id, login, number or name; empty is all."),
    *OneLine,
]
FilterText = Annotated[
    str,
    Query(max_length=4000, description="RFC 7644 3.4.2.2"),
    written("scim-filter"),
]
Whole = Annotated[
    str,
    Query(max_length=200, description="The whole value, in any case; empty is all."),
    *OneLine,
]
OneOf = Annotated[str, Query(max_length=60), *OneLine]
"""An id or a number; empty is all."""


def _iso(value: object) -> object:
    """A number would count as seconds since 1970, and nobody means that."""
    if isinstance(value, str) and re.fullmatch(r"[-+\d.eE\s]*", value):
        raise ValueError("this is to be a moment with its zone, as 2031-03-03T08:40:00Z")
    return value


At = Annotated[AwareDatetime | None, BeforeValidator(_iso), Query()]
"""A moment (RFC 3339); left out, none."""


Then = Annotated[AwareDatetime, BeforeValidator(_iso), Query()]
"""The same where one is needed."""


async def _known_application(_: Viewer, use: Use, application: OneOf = "") -> str:
    """An application by its id; a name nobody knows is refused, not answered with nothing."""
    if application:
        await use.applications.must_exist(application)
    return application


async def _known_by_path(_: Viewer, application_id: str, use: Use) -> str:
    """The same of an address; nobody learns of any before they have signed in."""
    await use.applications.must_exist(application_id)
    return application_id


OfApplication = Annotated[str, Depends(_known_application)]
ApplicationId = Annotated[str, Depends(_known_by_path)]
