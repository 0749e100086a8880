"""The rules document: roles with a condition and what they give."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from yugum.core.people import FILTER_ATTRIBUTES
from yugum.core.roles import Given, Role, Rules
from yugum.errors import InvalidInput
from yugum.wire.filters import parse_filter

Name = Annotated[str, Field(min_length=1, max_length=120)]


class Gives(BaseModel):
    """What a role gives in one application; the account itself always comes along."""

    model_config = ConfigDict(extra="forbid")

    application: Name
    entitlements: list[Name] = []
    seats: list[Name] = []


class RoleDocument(BaseModel):
    model_config = ConfigDict(extra="forbid")

    when: Annotated[str, Field(min_length=1, max_length=4000)]
    gives: list[Gives]


class RulesDocument(BaseModel):
    model_config = ConfigDict(extra="forbid")

    roles: dict[Name, RoleDocument] = {}


def rules_from(document: RulesDocument, version: int) -> Rules:
    """The core's rules.

    Raises:
        InvalidInput: a condition cannot be read; the place names the role.
    """
    roles = []
    for name, role in document.roles.items():
        try:
            when = parse_filter(role.when, FILTER_ATTRIBUTES)
        except InvalidInput as error:
            raise InvalidInput(
                error.message, place=f"roles.{name}.when", remedy=error.remedy
            ) from error
        given: list[Given] = []
        for gives in role.gives:
            given.append(Given(gives.application, "account"))
            given += [Given(gives.application, "entitlement", e) for e in gives.entitlements]
            given += [Given(gives.application, "seat", s) for s in gives.seats]
        roles.append(Role(name, when, role.when, tuple(given)))
    return Rules(version, tuple(roles))
