"""What people who leave or have left still own."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.verbs import Verb
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnedLine:
    """Things of one kind that an account of somebody owns."""

    person_id: str
    application_id: str
    account_id: str
    login: str
    thing: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Arrived:
    """Things of one kind that a docket of somebody's (``subject_id``) gave to ``person_id``; the first of their names."""

    docket_id: str
    subject_id: str
    subject_name: str
    person_id: str
    person_name: str
    address: str
    application_name: str
    thing: str
    count: int
    names: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Inherited:
    """Things of one kind that somebody took over from ``owner`` by a docket and still has."""

    person_id: str
    owner: str
    number: int
    thing: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """Things of one kind that somebody had, given to ``to_name`` by a docket, and who has them now, as last seen.

    Without ``now_name`` no account that is known has them.
    """

    application_id: str
    application_name: str
    thing: str
    count: int
    number: int
    at: datetime
    to_id: str | None
    to_name: str
    now_id: str | None
    now_name: str


class HandoverStore(Protocol):
    async def given(self, person_id: str, limit: int) -> Sequence[Given]:
        """What somebody had and others were given, by application and kind; each thing by its last way."""
        ...

    async def inherited(self, person_ids: Sequence[str]) -> Sequence[Inherited]:
        """What some people have from others, as last seen, by person and docket."""
        ...

    async def copied(self, account_ids: Sequence[str]) -> frozenset[tuple[str, str, str]]:
        """What others have copies of: the account, the thing's id there, the account of whoever has the copy."""
        ...

    async def chosen_for(
        self, person_ids: Sequence[str], now: datetime
    ) -> Mapping[str, Sequence[str]]:
        """From whom some people are to take over by a choice, who are still there or own something: names by person."""
        ...

    async def arrived(
        self, subject_ids: Sequence[str], verbs: Collection[Verb]
    ) -> Sequence[Arrived]:
        """What went from some people to others since this was asked before, from now on told: of dockets of some verbs
        that are not in confidence, to those who have an address, by docket and receiver."""
        ...

    async def owned(
        self, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[OwnedLine]:
        """What those own who leave or have left, as last seen; whose access ended or ends first, first."""
        ...
