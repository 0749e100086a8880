"""Links between accounts and people that are likely but not certain."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """A link between an account and a person that somebody should look at; percent of confidence."""

    account_id: str
    person_id: str
    rule: str
    confidence: int
    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class ProposalLine:
    """A proposal in a list."""

    account_id: str
    person_id: str
    rule: str
    confidence: int
    login: str
    account_name: str
    application_name: str
    person_name: str
    employee_number: str
    department: str


class ProposalStore(Protocol):
    async def add(self, proposals: Sequence[Proposal]) -> None:
        """Keep links to be looked at; known ones stay."""
        ...

    async def page(self, cursor: str | None, limit: int) -> ListPage[ProposalLine]:
        """Links to be looked at, the most likely first."""
        ...

    async def decide(self, account_id: str, person_id: str | None, by: str) -> None:
        """Link an account to a person, or to nobody; what was proposed for it is settled.

        Raises:
            NotFound: there is no such account.
        """
        ...
