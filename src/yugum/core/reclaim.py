"""Seats that could come back: why, since when, and what they cost."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from yugum.core.licenses import License, Licenses


class ReclaimReason(StrEnum):
    """Why a seat is one to reclaim; of several the first counts."""

    LEFT = "left"
    SHARED = "shared"
    NOT_FOR_THEM = "not-for-them"
    TWICE = "twice"
    ABSENT = "absent"
    UNUSED = "unused"
    NEVER_USED = "never-used"


@dataclass(frozen=True, slots=True, kw_only=True)
class Looked:
    """How the seats of a pool are looked at: its license, and those beside which it is one too many."""

    pool_id: str
    license: License
    beside: frozenset[str]
    now: datetime


def looked_at(
    pool_id: str,
    application_id: str,
    name: str,
    licenses: Licenses,
    license: License,
    now: datetime,
) -> Looked:
    """Of a seat that a suite contains, or beside one that does as well, the other is enough."""
    suites = _suites(application_id, name, licenses)
    return Looked(
        pool_id=pool_id, license=license, beside=frozenset({*suites, *license.instead_of}), now=now
    )


def _suites(application_id: str, name: str, licenses: Licenses) -> Iterable[str]:
    return (
        suite
        for (owner, suite), license in licenses.items()
        if owner == application_id and name in license.contains
    )
