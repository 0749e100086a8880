"""What is in the calendars of those who have a mailbox on the ships' own store, at the beginning."""

from __future__ import annotations

from datetime import datetime, timedelta

from yugum_standins.calendar_store import CalendarStore, event
from yugum_standins.morrow import MAIL_DOMAIN, SHIP_MAIL_TITLES, Employee

YARD = "bookings@northyard.example"
"""Somebody outside, who has no account here."""


def fill_calendars(store: CalendarStore, people: list[Employee], beginning: datetime) -> None:
    """Everybody has a calendar; heads of the engine room share one, and call the weekly round and the yard's visit."""
    crew = [p for p in people if p.title in SHIP_MAIL_TITLES]
    for person in crew:
        store.make(person.user_name, "calendar", "Calendar")
        store.put(
            person.user_name,
            "calendar",
            event(f"{person.user_name}-rest", "Rest days", beginning + timedelta(days=9)),
        )
    for head in crew:
        if head.title == "Second engineer":
            continue
        mates = [p for p in crew if p.site == head.site and p is not head]
        _call(store, head, mates, beginning)


def _call(store: CalendarStore, head: Employee, mates: list[Employee], beginning: datetime) -> None:
    login = head.user_name
    mine = f"{login}@{MAIL_DOMAIN}"
    invited = [f"{p.user_name}@{MAIL_DOMAIN}" for p in mates]
    day = beginning.replace(hour=7)
    store.make(login, "shared-watch", f"Engine watch {head.site}")
    store.put(
        login, "shared-watch", event(f"{login}-watch", "Night watch", day + timedelta(days=3))
    )
    round_ = event(
        f"{login}-round", "Engine round", day - timedelta(days=28), mine, invited, "FREQ=WEEKLY"
    )
    yard = event(
        f"{login}-yard", "Visit of the yard", day + timedelta(days=40), mine, [*invited, YARD]
    )
    past = event(f"{login}-drill", "Fire drill", day - timedelta(days=10), mine, invited)
    store.put(login, "shared-watch", round_)
    for text in (yard, past):
        store.put(login, "calendar", text)
    for mate in mates:
        for text in (round_, yard, past):
            store.put(mate.user_name, "calendar", text)
