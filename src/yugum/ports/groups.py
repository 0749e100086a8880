"""Groups themselves: who owns them, and how many are in them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.accounts import Account, AccountState
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class GroupLine:
    """One in a list; ``members`` counts open accounts in it, the owner is who is behind that account."""

    id: str
    application_id: str
    application_name: str
    login: str
    state: AccountState
    recoverable_until: datetime | None
    settings: Mapping[str, str]
    owner_id: str | None
    owner_name: str | None
    owner_left: bool
    members: int


@dataclass(frozen=True, slots=True, kw_only=True)
class WhichGroups:
    """Which groups a list is of; what is empty is all, ``retired`` only those that can come back."""

    application: str = ""
    owner_id: str = ""
    group_id: str = ""
    q: str = ""
    retired: bool = False


class GroupStore(Protocol):
    async def named(self, application_id: str, name: str) -> Account | None:
        """A group by its name, also one that is gone.

        Raises:
            Ambiguous: two that are there have it.
        """
        ...

    async def put(self, group: Account) -> None:
        """A place for a group that is to be made."""
        ...

    async def page(
        self,
        now: datetime,
        which: WhichGroups,
        *,
        cursor: str | None,
        limit: int,
    ) -> ListPage[GroupLine]:
        """Groups by application and name; those that are gone are not among them."""
        ...
