"""People who were declined before they began: no person any more, but on record."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Protocol

from yugum.core.facts import Fields
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Declined:
    """Somebody who was declined: who they would have been, who said no, why, and when.

    ``record`` is what had been entered or reported of them: the same is not taken in again unasked.
    """

    id: str
    user_name: str
    display_name: str
    employee_number: str
    author: str
    reason: str
    at: datetime
    docket_id: str | None = None
    record: Fields = field(default_factory=dict)


class DeclinedStore(Protocol):
    async def decline(self, one: Declined) -> None:
        """Take somebody out who has not begun; their accounts are nobody's again.

        Raises:
            Conflict: something was carried out for them already.
        """
        ...

    async def begun(self, person_id: str) -> bool:
        """Whether anything was ever carried out for somebody."""
        ...

    async def like(self, named: Sequence[tuple[str, str]]) -> Sequence[Declined]:
        """Who was declined under one of some logins or employee numbers, the latest first."""
        ...

    async def page(self, cursor: str | None, limit: int) -> ListPage[Declined]:
        """Who was declined, the latest first."""
        ...
