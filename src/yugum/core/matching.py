"""Whose account is it? Ordered rules, each with a confidence in percent.

The first rule that fits one person decides. A rule that fits several decides nothing, and says so
by leaving the account to a person to look at.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from yugum.core.accounts import Account, AccountKind, Observed
from yugum.core.conditions import fold

CERTAIN = 90
"""From this confidence on an account is linked by itself; below, the link is only proposed."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A person as far as matching needs one."""

    id: str
    user_name: str
    employee_number: str
    outside_mail: str
    display_name: str


@dataclass(frozen=True, slots=True)
class Match:
    person_id: str
    rule: str
    confidence: int


RULES: Sequence[tuple[str, int]] = (
    ("employee number", 100),
    ("login", 95),
    ("mail address", 90),
    ("login before the at sign", 70),
    ("display name", 60),
)


@dataclass(slots=True)
class Candidates:
    """People by what they can be matched by."""

    people: Sequence[Candidate]
    _by: dict[str, dict[str, set[str]]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for person in self.people:
            values = {
                "employee number": person.employee_number,
                "login": person.user_name,
                "login before the at sign": person.user_name,
                "mail address": person.outside_mail,
                "display name": person.display_name,
            }
            for rule, value in values.items():
                if value:
                    found = self._by.setdefault(rule, {})
                    found.setdefault(fold(value), set()).add(person.id)

    def match(self, seen: Observed) -> Match | None:
        """The person an account belongs to by the first rule that names exactly one."""
        if seen.kind is not AccountKind.PERSON:
            return None
        keys = keys_of(seen)
        for rule, confidence in RULES:
            value = keys[rule]
            people = self._by.get(rule, {}).get(fold(value), set()) if value else set()
            if len(people) == 1:
                return Match(next(iter(people)), rule, confidence)
            if len(people) > 1:
                return None
        return None


def keys_of(seen: Observed) -> Mapping[str, str]:
    """What of an account each rule looks for."""
    before = seen.login.partition("@")[0] if "@" in seen.login else ""
    return {
        "employee number": seen.employee_number,
        "login": seen.login,
        "mail address": seen.mail or (seen.login if "@" in seen.login else ""),
        "login before the at sign": before,
        "display name": seen.display_name,
    }


def as_seen(account: Account, display_name: str = "", number: str = "") -> Observed:
    """A stored account as if it had just been seen."""
    return Observed(
        external_id=account.external_id,
        login=account.login,
        state=account.state,
        entitlements=account.entitlements,
        seats=account.seats,
        display_name=display_name,
        employee_number=number,
        kind=account.kind,
    )
