"""Seats that could come back: why, since when, and what they cost."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from yugum.core.applications import Application
from yugum.core.licenses import USUAL, Carries, License, Licenses
from yugum.core.seats import Pool
from yugum.core.windows import mail_days


class ReclaimReason(StrEnum):
    """Why a seat is one to reclaim; of several the first counts."""

    LEFT = "left"
    SHARED = "shared"
    NOT_FOR_THEM = "not-for-them"
    TWICE = "twice"
    CHEAPER = "cheaper"
    GIVEN_UP = "given-up"
    ABSENT = "absent"
    UNUSED = "unused"
    NEVER_USED = "never-used"


@dataclass(frozen=True, slots=True, kw_only=True)
class Looked:
    """How the seats of a pool are looked at: its license, and those beside which it is one too many.

    Whose access ended by ``left_by`` needs nothing any more that a seat carries.
    """

    pool_id: str
    license: License
    beside: frozenset[str]
    now: datetime
    left_by: datetime


def looked_at(
    pool: Pool, licenses: Licenses, application: Application | None, now: datetime
) -> Looked:
    """Of a seat that a suite contains, or beside one that does as well, the other is enough."""
    license = licenses.get((pool.application_id, pool.license), USUAL)
    suites = {
        suite
        for (application_id, suite), other in licenses.items()
        if application_id == pool.application_id and pool.license in other.contains
    }
    beside = frozenset({*suites, *license.instead_of})
    days = mail_days(application) if application and Carries.MAIL in license.carries else 0
    return Looked(
        pool_id=pool.id,
        license=license,
        beside=beside,
        now=now,
        left_by=now - timedelta(days=days),
    )
