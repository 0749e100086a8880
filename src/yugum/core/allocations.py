"""Seats given and taken by hand: what has to be decided so that somebody has one, or has none."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from yugum.core.accounts import HoldingKind
from yugum.core.decisions import FOUND, Decision, DecisionKind, Payload, in_force
from yugum.core.desired import Subject, World, desired


@dataclass(frozen=True, slots=True)
class SeatTurn:
    """Somebody is to have a seat of a license, or none, for a reason."""

    application_id: str
    license: str
    give: bool
    reason: str

    @property
    def payload(self) -> Payload:
        return Payload(application=self.application_id, kind=HoldingKind.SEAT, item=self.license)


def allocated(
    turns: Sequence[SeatTurn],
    subject: Subject,
    world: World,
    at: datetime,
    author: str,
    ends: datetime | None,
) -> tuple[list[Decision], list[str]]:
    """The exceptions that have to be made, and the ids of those that end, for seats to be as they are wanted.

    What speaks against it ends first; an exception is made only where roles and others would not have it so.
    """
    made, over = list[Decision](), list[str]()
    for turn in turns:
        against = DecisionKind.DENY if turn.give else DecisionKind.GRANT
        over += [
            d.id
            for d in in_force(subject.decisions, at)
            if d.kind is against and d.payload == turn.payload
        ]
    subject = replace(subject, decisions=tuple(d for d in subject.decisions if d.id not in over))
    for turn in turns:
        if _is_so(turn, subject, world, at):
            continue
        one = Decision(
            id=str(uuid.uuid4()),
            subject_id=subject.person.id,
            kind=DecisionKind.GRANT if turn.give else DecisionKind.DENY,
            payload=turn.payload,
            author=author,
            reason=turn.reason,
            ends=ends,
        )
        made.append(one)
        subject = replace(subject, decisions=(*subject.decisions, one))
    return made, over


def _is_so(turn: SeatTurn, subject: Subject, world: World, at: datetime) -> bool:
    """Whether it would be so without another exception; what was found there stays unless one refuses it."""
    want = desired(subject, world.rules, at).get(turn.application_id)
    wanted = want is not None and turn.license in want.seats
    found = any(
        turn.license in account.seats
        and subject.ledger.get((account.id, HoldingKind.SEAT, turn.license), FOUND) == FOUND
        for account in subject.accounts
        if account.application_id == turn.application_id
    )
    refused = any(
        d.kind is DecisionKind.DENY and d.payload == turn.payload
        for d in in_force(subject.decisions, at)
    )
    return wanted if turn.give else refused or (not wanted and not found)
