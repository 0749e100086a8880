"""The rules document: roles with a condition and what they give."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

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
