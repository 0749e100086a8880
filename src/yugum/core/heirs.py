"""Whom what a leaver owns goes to where nobody chose anything: what the rules say of it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from yugum.core.people import Person
from yugum.core.successors import unfit

MANAGER = "manager"
MANAGERS_MANAGER = "managers-manager"


@dataclass(frozen=True, slots=True)
class DefaultHeir:
    """``to`` is a login, ``MANAGER`` or ``MANAGERS_MANAGER``, else it is who has a ``role``; without an application or kind it is of all."""

    to: str
    application_id: str = ""
    thing: str = ""
    role: str = ""

    def fits(self, application_id: str, thing: str) -> bool:
        """Whether this is said of a kind of thing in an application."""
        return self.application_id in ("", application_id) and self.thing in ("", thing)


class Unanswered(StrEnum):
    """What silence comes to once the term is over: whoever was asked takes it over, or nobody does."""

    TAKES = "takes"
    OPEN = "open"


@dataclass(frozen=True, slots=True, kw_only=True)
class AskRules:
    """Whoever is to take something over is asked so many days before the end, has so many days and is reminded after some (0: never)."""

    ahead_days: int
    days: int
    remind_days: int
    unanswered: Unanswered


@dataclass(frozen=True, slots=True, kw_only=True)
class HandoverRules:
    """The first default that fits counts; ``custodian`` (a login) gets what is open so long after the end.

    With ``ask`` nobody but the custodian is given anything before they have agreed.
    """

    defaults: tuple[DefaultHeir, ...] = ()
    custodian: str = ""
    custodian_days: int = 30
    ask: AskRules | None = None

    def logins(self) -> frozenset[str]:
        """Everybody whom these rules name."""
        named = {d.to for d in self.defaults} - {MANAGER, MANAGERS_MANAGER, ""}
        return frozenset({*named, self.custodian} - {""})

    def roles(self) -> frozenset[str]:
        """The roles whose holders these rules name."""
        return frozenset(d.role for d in self.defaults if d.role)


def nearest(leaver: Person, holders: Iterable[Person], at: datetime) -> Person | None:
    """Who of some takes over from somebody: of those who can, one of the same department and site, or department, or site.

    Of those as near the first by login, so that it is the same one each time.
    """

    def far(heir: Person) -> tuple[bool, bool, str]:
        return (heir.department != leaver.department, heir.site != leaver.site, heir.user_name)

    able = [h for h in holders if h.id != leaver.id and not unfit(h, at)]
    return min(able, key=far, default=None)


NO_RULES = HandoverRules()
