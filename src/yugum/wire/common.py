"""Pieces every noun uses: strict models, pages, problems."""

from __future__ import annotations

import re
from datetime import datetime
from typing import Annotated, Any, Generic, TypeVar

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from yugum.core.dates import is_zone

Item = TypeVar("Item")


CONTROL = re.compile(r"[\x00-\x1f]")


def _no_control(text: str) -> str:
    if CONTROL.search(text):
        raise ValueError("control characters are not allowed")
    return text


Line = Annotated[str, Field(max_length=300), AfterValidator(_no_control)]
"""One line of text from outside."""


def _known_zone(name: str) -> str:
    if name and not is_zone(name):
        raise ValueError("there is no time zone of that name; one is called Europe/Helsinki")
    return name


Zone = Annotated[str, AfterValidator(_known_zone)]
"""A time zone of the IANA database; empty where the organisation's counts."""


class Model(BaseModel):
    """A response; built from mappings and objects alike."""

    model_config = ConfigDict(from_attributes=True)


class Request(BaseModel):
    """A request: unknown fields are refused, so that a typing error is not passed over."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)


class Page(BaseModel, Generic[Item]):
    """Some rows of a list; ``next`` is the cursor of the following page, if there is one."""

    items: list[Item]
    next: str | None = None
    total: int | None = Field(None, description="Rows in all; told on the first page only.")


class Problem(BaseModel):
    """An error as application/problem+json (RFC 9457)."""

    type: str
    title: str
    status: int
    detail: str
    code: str
    remedy: str = ""
    place: str = ""
    retryable: bool = False


class Named(Model):
    id: str
    name: str


Moment = datetime
Document = dict[str, Any]
