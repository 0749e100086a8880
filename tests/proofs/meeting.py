"""The part of the proof ``handover`` that is about calendars, meetings and mail; all read where it is stored."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime, time, timedelta
from pathlib import Path
from typing import Any

from icalendar import Calendar

from tests.proofs.play import Play
from yugum.wire.handover import ChooseHandover
from yugum_standins.calendar_store import event
from yugum_standins.morrow import MAIL_DOMAIN

YARD = "yard@outside.example"
TITLE = "Second engineer"
"""Whoever is one has a mailbox on the ships' own store."""


def address(login: str) -> str:
    return f"{login}@{MAIL_DOMAIN}"


def meets(play: Play, owner: str, mate: str) -> None:
    """A shared calendar with a weekly round, a visit to come and a drill that is over; two letters."""
    store, now = play.stage.calendar_stores[0], play.client.clock.show().now
    for login in (owner, mate):
        store.make(login, "calendar", "Calendar")
    store.make(owner, "shared-tides", "Tides for all")
    invited = [address(mate), YARD]
    begins = now.replace(microsecond=0)
    round_ = event(
        "tides-round",
        "Tide round",
        begins - timedelta(days=17),
        address(owner),
        invited,
        "FREQ=WEEKLY",
    )
    visit = event(
        "tides-visit", "Tide visit", begins + timedelta(days=150), address(owner), invited
    )
    drill = event("tides-drill", "Tide drill", begins - timedelta(days=9), address(owner), invited)
    store.put(owner, "shared-tides", round_)
    for text in (visit, drill):
        store.put(owner, "calendar", text)
    for text in (round_, visit, drill):
        store.put(mate, "calendar", text)
    for subject in ("Tide tables for spring", "Berths"):
        play.stage.mail_stores[0].send(owner, YARD, subject)


def _stored(play: Play) -> Iterator[tuple[str, Any]]:
    """Every event that the server has written down: the login in whose home it is, and the event."""
    for path, text in play.stage.calendar_stores[0].texts().items():
        for one in Calendar.from_ical(text).walk("VEVENT"):
            yield path.split("/")[0], one


def calls(play: Play) -> dict[str, str]:
    """Who calls what of the tides in whose home: ``mate: tides-visit`` by ``owner``."""
    found: dict[str, list[str]] = {}
    for home, one in _stored(play):
        if str(one["UID"]).startswith("tides-"):
            until = (
                " until"
                if "UNTIL" in str(one.get("RRULE", "").to_ical() if "RRULE" in one else "")
                else ""
            )
            name = f"{home}: {one['SUMMARY']}{until}"
            found.setdefault(name, []).append(str(one.get("ORGANIZER", "")).removeprefix("mailto:"))
    return {name: ", ".join(sorted(who)) for name, who in sorted(found.items())}


def shared(play: Play) -> str:
    """In whose home the shared calendar is."""
    root = play.stage.calendar_stores[0].folder / "store" / "collection-root"
    return ", ".join(sorted(p.parent.name for p in root.glob("*/shared-tides")))


def letters(play: Play, heir: str, owner: str) -> set[str]:
    """What of the owner's mail the heir has in a folder of its own."""
    return set(play.stage.mail_stores[0].subjects(heir, f"Handed over/{owner}/INBOX"))


def copied(play: Play, owner: str, keeper: str) -> None:
    """One kind is copied for the custodian, and goes with the account."""
    said = ChooseHandover(reason="to look things up", thing="template", to=keeper, copies=True)
    play.client.handover.choose(owner, said)


def moved(play: Play, owner: str, heir: str, mate: str) -> None:
    report = play.report
    report.equal(
        "what is to come is called by Tora, in her calendar and in Mads's; what has been stays as it was",
        calls(play),
        {
            f"{heir}: Tide drill": address(owner),
            f"{heir}: Tide round": address(heir),
            f"{heir}: Tide round until": address(owner),
            f"{heir}: Tide visit": address(heir),
            f"{mate}: Tide drill": address(owner),
            f"{mate}: Tide round": address(heir),
            f"{mate}: Tide round until": address(owner),
            f"{mate}: Tide visit": address(heir),
        },
    )
    report.equal("the shared calendar is in Tora's home", shared(play), heir)
    told = [m for m in play.post.mails(YARD) if m["subject"] == "Updated: Tide visit"]
    report.check(
        "the yard, which has no account here, is told by mail (iMIP) who calls the visit now",
        bool(told)
        and "METHOD:REQUEST" in told[0]["calendar"]
        and address(heir) in told[0]["calendar"],
        [m["subject"] for m in play.post.mails(YARD)],
    )
    report.equal(
        "Tora has Vera's letters",
        letters(play, heir, owner),
        {"Tide tables for spring", "Berths"},
    )


def back(play: Play, owner: str, mate: str) -> None:
    """Undone: who calls what is to come, and where the shared calendar is."""
    now = {(n.split(" until")[0], w) for n, w in calls(play).items()}
    play.report.equal(
        "Vera calls them again, and the shared calendar is hers",
        (now, shared(play)),
        (
            {
                (f"{home}: Tide {name}", address(owner))
                for home in (owner, mate)
                for name in ("round", "visit", "drill")
            },
            owner,
        ),
    )


def traces(play: Play, owner: str, left: datetime, heir: str) -> None:
    """Where the owner is written down: in events that were over when she left, and in letters."""
    late = sorted(
        f"{home}: {one['SUMMARY']}"
        for home, one in _stored(play)
        if owner in one.to_ical().decode().replace("\r\n ", "") and not _over(one, left)
    )
    play.report.equal("no event that was still to come when she left names her", late, [])
    folder = Path(play.stage.mail_stores[0].folder) / "mail"
    strange = sorted(
        {
            str(path.relative_to(folder).parent)
            for path in folder.rglob("*")
            if path.is_file() and path.parent.name in ("cur", "new")
            if owner.encode() in path.read_bytes()
            and f"Handed over/{owner}" not in str(path)
            and b"Auto-Submitted" not in path.read_bytes()
        }
    )
    play.report.equal("no mail but what she got and what was told of her names her", strange, [])
    homes = sorted({home for home, _ in _stored(play)} & {owner})
    play.report.equal("her own home in the calendars is gone", homes, [])


def _over(one: Any, at: datetime) -> bool:
    if "RRULE" in one:
        until = one["RRULE"].get("UNTIL")
        return bool(until) and _moment(until[0]) <= at
    return _moment(one["DTSTART"].dt) <= at


def _moment(value: Any) -> datetime:
    found = value if isinstance(value, datetime) else datetime.combine(value, time())
    return found if found.tzinfo else found.replace(tzinfo=UTC)
