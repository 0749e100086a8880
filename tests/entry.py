"""What is typed of a new person and cannot be, or looks like a slip: one table for every way in."""

from __future__ import annotations

import uuid
from dataclasses import dataclass, field
from datetime import timedelta

from tests.acceptance.test_service import newcomer
from tests.conftest import Theatre
from yugum.core.verbs import Verb
from yugum.wire import plans as wl


def unique() -> str:
    return f"e{uuid.uuid4().hex[:8]}"


@dataclass(frozen=True, slots=True)
class Slip:
    """Fields as the API calls them, the place and text they are refused with.

    ``right`` is what is said to be right; with nothing there it is refused for good.
    """

    name: str
    fields: dict[str, str]
    place: str
    text: str
    right: str = ""
    typed: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Known:
    """Somebody who is there, who has left with their number, who leaves before ``later``."""

    there: str
    number: str
    mail: str
    outside: str
    gone: str
    gone_number: str
    leaving: str
    later: str


def known(theatre: Theatre) -> Known:
    client, outside, number = theatre.client, f"{unique()}@home.example", unique()
    there = newcomer(theatre, outside_mail=outside, employee_number=unique())
    shown = client.people.show(there)
    mail = f"{there}@morrowsound.example"
    client.people.change(there, {"mail": mail})
    gone = newcomer(theatre, employee_number=number)
    leave = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[gone]))
    list(client.dockets.follow(client.plans.confirm(leave)[0].number))
    leaving, now = newcomer(theatre), client.clock.show().now
    soon = f"{now + timedelta(days=20):%Y-%m-%d}"
    client.plans.confirm(client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[leaving], at=soon)))
    later = f"{now + timedelta(days=30):%Y-%m-%d}"
    return Known(there, shown.employee_number, mail, outside, gone, number, leaving, later)


def slips(k: Known) -> list[Slip]:
    """What is wrong with each; everything else about it is right."""
    near = "nearest: Deck."
    return [
        Slip("a login somebody has", {"user_name": k.there}, "user_name", "is taken"),
        Slip("a login that is none", {"user_name": "Å b"}, "user_name", ""),
        Slip("a number somebody has", {"employee_number": k.number}, "employee_number", "has the"),
        Slip(
            "a number of somebody who left",
            {"employee_number": k.gone_number},
            "employee_number",
            "has left, had the same number",
        ),
        Slip(
            "an outside address somebody has",
            {"outside_mail": k.outside},
            "outside_mail",
            "same outside address",
        ),
        Slip("an address somebody has", {"mail": k.mail}, "mail", "is the address of"),
        Slip("an address that is none", {"mail": "nobody"}, "mail", ""),
        Slip(
            "a domain nobody offers",
            {"mail": "a@morowsound.example"},
            "mail",
            "Nobody here has an address",
        ),
        Slip(
            "an end before the start",
            {"starts": "2031-09-02", "contract_ends": "2031-09-01"},
            "contract_ends",
            "before they begin",
        ),
        Slip("a day that can be read two ways", {"starts": "03/04/2031"}, "starts", "two ways"),
        Slip("a manager nobody knows", {"manager": "no.body"}, "manager", "Nobody is called"),
        Slip("a phone that is none", {"phone": "call me"}, "phone", ""),
        Slip(
            "a mistyped department", {"department": "Dekc"}, "department", near, right="department"
        ),
        Slip(
            "a new department",
            {"department": "Kelp"},
            "department",
            "has Kelp.",
            right="department",
        ),
        Slip(
            "a first day long past", {"starts": "2021-03-04"}, "starts", "long ago.", right="starts"
        ),
        Slip(
            "a manager who leaves before it",
            {"manager": k.leaving, "starts": k.later},
            "manager",
            "nobody would be there as manager.",
            right="manager",
        ),
        Slip("a mistyped site", {"site": "Oxhavn"}, "site", "nearest: Oxhaven.", right="site"),
    ]
