"""Roles and rules: who should have what."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from yugum.core.conditions import Condition, Values, matches


@dataclass(frozen=True, slots=True)
class Given:
    """One thing a role gives in an application: ``item`` is "" for the account itself."""

    application_id: str
    kind: str  # account | entitlement | seat
    item: str = ""


@dataclass(frozen=True, slots=True)
class Role:
    """A rule of the organisation: a condition on people and what it gives."""

    name: str
    when: Condition
    when_text: str
    gives: tuple[Given, ...]


@dataclass(frozen=True, slots=True)
class Rules:
    """One numbered version of the organisation's rules."""

    version: int = 0
    roles: tuple[Role, ...] = ()
    close_after_days: Mapping[str, int] = field(default_factory=dict)

    def roles_of(self, values: Values) -> tuple[Role, ...]:
        """The roles whose condition the folded ``values`` fulfil, in the file's order."""
        return tuple(role for role in self.roles if matches(role.when, values))
