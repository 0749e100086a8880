"""Many people at once, as trials of rules read them: by what they have in common."""

from __future__ import annotations

from collections.abc import AsyncIterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Protocol

from yugum.core.accounts import AccountState


@dataclass(frozen=True, slots=True, kw_only=True)
class HeldIn:
    """What somebody holds in one application; ``ruled`` is what a role gave, as ``kind:item``."""

    state: AccountState
    entitlements: Sequence[str] = ()
    seats: Sequence[str] = ()
    settings: Mapping[str, str] = field(default_factory=dict)
    ruled: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonHolding:
    """A person of a combination (``key``) with what they hold, by application."""

    id: str
    display_name: str
    user_name: str
    key: str
    held: Mapping[str, HeldIn]


@dataclass(frozen=True, slots=True)
class Combination:
    """Values that people have in common: a ``key`` for `PeopleStore.holding`, and how many they are.

    Among named people ``ids`` tells who.
    """

    key: str
    values: Mapping[str, Sequence[str]]
    count: int
    ids: Sequence[str] = ()


class PopulationStore(Protocol):
    async def ids_after(self, after: str, limit: int) -> Sequence[str]:
        """The next ids in their order, to go through everybody in portions."""
        ...

    async def combinations(self, attributes: Sequence[str], now: datetime) -> Sequence[Combination]:
        """The distinct values people have in some attributes; only who is there or expected counts.

        Of an attribute led by a question mark only its presence counts.
        """
        ...

    async def combinations_of(
        self, attributes: Sequence[str], now: datetime, who: Sequence[str]
    ) -> tuple[Sequence[Combination], Sequence[str]]:
        """The same among people named by login or number, with their ids; and the names of nobody."""
        ...

    def holding(
        self,
        attributes: Sequence[str],
        keys: Sequence[str],
        applications: Sequence[str],
        now: datetime,
        portion: int,
        among: Sequence[str] | None = None,
    ) -> AsyncIterator[Sequence[PersonHolding]]:
        """People of some combinations with what they hold in some applications, in portions.

        ``among`` are the ids of those to look at; without it everybody is.
        """
        ...
