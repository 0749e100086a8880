"""Decisions operators made and the ledger of why something is held."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

import msgspec

from yugum.core.accounts import HoldingKind
from yugum.core.documents import Document, sparse


class DecisionKind(StrEnum):
    GRANT = "grant"
    DENY = "deny"
    SUCCESSOR = "successor"
    HOLD = "hold"
    ROLE = "role"
    SUSPEND = "suspend"
    VEIL = "veil"


@dataclass(frozen=True, slots=True, kw_only=True)
class Payload:
    """What a decision is about, by its kind.

    Grant and deny: ``application``, ``kind`` and ``item``, of a setting its ``value``; an account that is
    denied by its id is replaced by another one of the person. Suspend:
    ``application``, closed whatever the rules give; a precaution has none but a ``measure`` for the whole
    person and a day of ``review``. Role: ``role``, held whatever its condition says.
    Successor: ``person``; of one ``application``, kind of thing (``item``) or those ``matching`` a name only,
    where they are named; with the ``value`` "goes" these go with the account, with "keeps" it is kept for them. Veil: ``names``, former names that only administrators
    see. Hold: nothing.
    """

    application: str = ""
    kind: HoldingKind | None = None
    item: str = ""
    value: str = ""
    matching: str = ""
    role: str = ""
    person: str = ""
    names: tuple[str, ...] = ()
    measure: str = ""
    review: str = ""

    def document(self) -> Document:
        """As JSON carries it; a holding is named in full."""
        said = sparse(self)
        return said if self.kind is None else {"item": "", **said}


NO_PAYLOAD = Payload()


def payload_from(document: Document) -> Payload:
    """The payload that `Payload.document` wrote."""
    return msgspec.convert(document, Payload)


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """Something an operator settled for one subject, from ``starts`` until ``ends`` (for good).

    ``made`` is when it was settled; None for one that is only being planned.
    """

    id: str
    subject_id: str
    kind: DecisionKind
    payload: Payload = NO_PAYLOAD
    author: str = ""
    reason: str = ""
    starts: datetime | None = None
    ends: datetime | None = None
    made: datetime | None = None

    @property
    def since(self) -> datetime | None:
        """From when on it counts: its own beginning, else when it was made."""
        return self.starts or self.made


def in_force(decisions: Iterable[Decision], at: datetime) -> list[Decision]:
    return [
        d
        for d in decisions
        if (d.since is None or d.since <= at) and (d.ends is None or at < d.ends)
    ]


def closed_since(decisions: Iterable[Decision], moment: datetime | None) -> list[Decision]:
    """What was settled about accounts of somebody who had left by then: it goes with their leaving."""
    return [
        d
        for d in decisions
        if d.kind in (DecisionKind.SUSPEND, DecisionKind.DENY)
        and d.payload.kind in (None, HoldingKind.ACCOUNT)
        and not (d.payload.item or d.payload.measure)
        and moment is not None
        and d.made is not None
        and d.made >= moment
        and (d.ends is None or d.ends > d.made)
    ]


class OriginKind(StrEnum):
    ROLE = "role"
    DECISION = "decision"
    FOUND = "found"


@dataclass(frozen=True, slots=True)
class Origin:
    """Why something is held: a role's name, a decision's id, or it was found there."""

    kind: OriginKind
    name: str = ""


FOUND = Origin(OriginKind.FOUND)

LedgerKey = tuple[str, HoldingKind, str]
"""account id, kind, item"""

Ledger = Mapping[LedgerKey, Origin]


@dataclass(frozen=True, slots=True, kw_only=True)
class Right:
    """That an account is given, from ``since`` until ``until`` (None: still).

    ``known_at`` is when its end was known, where that was later. For one carried over from before
    such ends were kept nothing falls due sooner than ``not_before``.
    """

    account_id: str
    since: datetime
    until: datetime | None = None
    known_at: datetime | None = None
    not_before: datetime | None = None
