"""Seats given and taken by hand: the exceptions that come with a plan, and those that end with it."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from yugum.core.allocations import allocated
from yugum.core.desired import Subject, World
from yugum.core.requests import PlanRequest
from yugum.engine.decisions import end_of
from yugum.engine.plans.meanings import Meaning
from yugum.engine.plans.safeguards import Actor


def with_seats(
    request: PlanRequest,
    meaning: Meaning,
    subject: Subject,
    world: World,
    actor: Actor,
    now: datetime,
) -> Meaning:
    """What it means for one person that they have seats, or none.

    Raises:
        InvalidInput: the end is past, or no moment.
    """
    person = subject.person
    ends = end_of(request.until, now, person.time_zone, "until")
    made, over = allocated(request.seats[person.id], subject, world, now, actor.login, ends)
    return replace(meaning, decisions=tuple(made), over=tuple(over))
