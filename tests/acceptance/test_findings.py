"""Findings accepted until a day: one, several, all of a kind; told again when it is over."""

from __future__ import annotations

import json
import uuid
from datetime import date, timedelta

import httpx
import pytest

from tests.acceptance.test_service import joined
from tests.acceptance.test_standing import until
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.findings import FindingKind
from yugum.core.lines import LineStatus
from yugum.errors import InvalidInput, NotFound
from yugum.wire import findings as wf
from yugum_standins.morrow import CREW

NOBODY = FindingKind.NOBODY_BEHIND


def strangers(theatre: Theatre, count: int) -> list[str]:
    """Logins of accounts that somebody has made in the crew rosters past everybody."""
    crew = theatre.play.crew
    logins = [f"x{uuid.uuid4().hex[:9]}" for _ in range(count)]
    for login in logins:
        reply = httpx.post(
            f"{crew.url}/scim/v2/Users", json={"userName": login}, headers=dict(crew.headers)
        )
        reply.raise_for_status()
    theatre.client.applications.read(CREW)
    return logins


def keys_of(theatre: Theatre, logins: list[str], *, accepted: bool = False) -> dict[str, str]:
    rows = theatre.client.findings.all(NOBODY, accepted=accepted)
    return {f.login: f.key for f in rows if f.login in logins}


def of(kind: FindingKind, *keys: str, **more: str) -> wf.AcceptFindings:
    items = [wf.WhichFinding(kind=kind, key=key) for key in keys]
    return wf.AcceptFindings(
        items=items, **{"until": "+30d", "reason": "they are being moved", **more}
    )


def count(theatre: Theatre) -> int:
    return sum(c.count for c in theatre.client.findings.counts() if c.kind == NOBODY)


def test_accepted_findings_are_told_again_on_their_day(theatre: Theatre) -> None:
    client = theatre.client
    logins = strangers(theatre, 3)
    keys = keys_of(theatre, logins)
    one, two, three = (keys[login] for login in logins)
    # A stage that has just been raised is still gone through: findings come and go until it is not.
    until(lambda: not client.standing.behind().ahead)
    before, figures = count(theatre), client.status().counts.findings
    done = client.findings.accept(of(NOBODY, one, two, "no-such-key", one, until="+2h"))
    assert (done.accepted, [r.key for r in done.refused]) == (2, ["no-such-key"])
    assert keys_of(theatre, logins).keys() == {logins[2]}
    assert count(theatre) == before - 2, "figures count what the list shows"
    assert client.status().counts.findings == figures - 2
    told = {f.key: f for f in client.findings.all(NOBODY, accepted=True)}
    assert told[one].accepted_why == "they are being moved"
    assert told[one].accepted_by
    said = cli(theatre, "findings", "accept", two, three, "--kind", NOBODY.value, "--until", "+20d", "--reason", "theirs")  # fmt: skip
    assert said.returncode == 0, said.stderr
    client.findings.reopen(wf.ReopenFindings(items=[wf.WhichFinding(kind=NOBODY, key=three)]))
    assert keys_of(theatre, logins).keys() == {logins[2]}
    later = client.clock.show().now + timedelta(hours=2, minutes=1)
    for _ in client.clock.advance(later.isoformat()):
        pass
    assert keys_of(theatre, logins).keys() == {logins[0], logins[2]}, "the last word counts"
    assert keys_of(theatre, logins, accepted=True).keys() == {logins[1]}
    listed = cli(theatre, "findings", "list", "--kind", NOBODY.value, "--accepted")
    assert "theirs" in listed.stdout


def test_how_many_there_were_is_kept_day_by_day(theatre: Theatre) -> None:
    client = theatre.client
    days = list(client.findings.days())
    assert days == sorted(days, key=lambda d: d.day)
    for one in days:
        assert one.found == sum(c.count for c in one.counts)
    told = cli(theatre, "--output", "json", "findings", "days")
    assert [d["day"] for d in json.loads(told.stdout)] == [d.day.isoformat() for d in days]
    last = days[-1].day
    assert list(client.findings.days(last, last)) == days[-1:]
    assert not list(client.findings.days(date(2020, 1, 1), date(2020, 2, 1)))
    for begin, end, why in (
        (last, date(2020, 1, 1), "before it begins"),
        (date(2000, 1, 1), last, "ten years"),
        (date(9999, 12, 1), date(9999, 12, 31), "so far away"),
        (date(1, 1, 1), date(1, 1, 2), "so far away"),
    ):
        with pytest.raises(InvalidInput, match=why):
            list(client.findings.days(begin, end))
        with pytest.raises(InvalidInput, match=why):
            list(client.reports.leavers(begin, end))


def test_what_cannot_be_accepted_is_refused_with_a_remedy(theatre: Theatre) -> None:
    client = theatre.client
    (login,) = strangers(theatre, 1)
    key = keys_of(theatre, [login])[login]
    for wrong, why in (
        (of(NOBODY, key, until="+91d"), "at most 90 days"),
        (of(NOBODY, key, until="yesterday"), "yesterday"),
        (of(NOBODY, key, until="2031-01-01"), "past"),
        (of(FindingKind.LEAVER_OPEN, "one", "two"), "one by one"),
    ):
        with pytest.raises(InvalidInput, match=why):
            client.findings.accept(wrong)
    refused = client.findings.accept(of(FindingKind.OUTSIDE, "any")).refused
    assert "keep, revert" in refused[0].problem
    assert login in keys_of(theatre, [login]), "nothing half done"
    both = cli(theatre, "findings", "accept", key, "--all", "--kind", NOBODY.value, "--until", "+1d", "--reason", "x")  # fmt: skip
    assert both.returncode == 2


def test_a_difference_is_accepted_as_such(theatre: Theatre) -> None:
    client = theatre.client
    login = joined(theatre, "Engine Room")
    theatre.crew.leave(login, "Rosters")
    client.applications.read(CREW)

    def missing() -> list[str]:
        return [f.key for f in client.findings.all("missing") if f.login == login]

    until(missing)
    (key,) = missing()
    wrong = client.findings.accept(of(FindingKind.MISSING, "no/such", f"{key}s"))
    assert (wrong.accepted, len(wrong.refused)) == (0, 2)
    done = client.findings.accept(of(FindingKind.MISSING, key))
    assert (done.accepted, done.refused) == (1, [])
    until(lambda: not missing())
    (row,) = [r for r in client.people.show(login).standing if r.item == "Rosters"]
    assert row.status is LineStatus.ACCEPTED
    assert row.accepted_until is not None


def test_findings_of_one_application_and_of_one_person(theatre: Theatre) -> None:
    client = theatre.client
    keys = keys_of(theatre, strangers(theatre, 2))
    here = list(client.findings.all(application=CREW))
    assert {f.application_name for f in here} == {"Crew rosters"}
    assert set(keys.values()) <= {f.key for f in here}
    every = [(f.kind, f.key) for f in client.findings.all() if f.application_name == "Crew rosters"]
    assert sorted((f.kind, f.key) for f in here) == sorted(every)
    page = httpx.get(
        f"{theatre.stage.url}/api/v1/findings",
        params={"application": CREW, "kind": "nobody-behind", "limit": 1},
        headers={"Authorization": f"Bearer {theatre.token}"},
    ).json()
    assert page["total"] == sum(f.kind == NOBODY for f in here)
    login = joined(theatre, "Timetables")
    theatre.crew.leave(login, "Rosters")
    client.applications.read(CREW)
    until(lambda: list(client.findings.all(who=login)))
    mine = list(client.findings.all(who=login))
    whose = client.people.show(login).id
    assert {f.person_id for f in mine} == {whose}
    assert not list(client.findings.all(FindingKind.SLEEPER, who=login))
    with pytest.raises(NotFound):
        list(client.findings.all(who="nobody-at-all"))
    with pytest.raises(NotFound):
        list(client.findings.all(application="nowhere"))
    told = cli(theatre, "--output", "csv", "findings", "list", "--who", login)
    assert mine[0].key in told.stdout
