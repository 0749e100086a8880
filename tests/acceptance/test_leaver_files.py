"""Leavers from a file: each row has its own day and successor; one bad row stops nothing."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

import pytest

from tests.acceptance.test_people_files import faults, unique
from tests.acceptance.test_service import joined, newcomer
from tests.commands import cli
from tests.conftest import Theatre
from tests.signing import for_now, token_of
from yugum.client import Client
from yugum.core.dockets import DocketState
from yugum.core.file_columns import FileKind
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput
from yugum.wire import people as wp
from yugum.wire import people_files as wpf
from yugum.wire import plans as wl

HEAD = "Login;No;Name;Access ends;Left on;Last working day;Contract ends;Successor;Reason;Ticket"
COLUMNS = {"Access ends": "at"}


def file_of(*rows: str, head: str = HEAD, mark: bool = True) -> bytes:
    return "\n".join([head, *rows]).encode("utf-8-sig" if mark else "utf-8")


def check(client: Client, raw: bytes) -> wpf.PeopleFileView:
    return client.people_files.check("leavers.csv", raw, kind=FileKind.LEAVERS)


def somebody(theatre: Theatre, **more: str) -> str:
    """The login of a new person without accounts, who has begun."""
    login = unique()
    row = wp.NewPerson(user_name=login, given_name="Ida", family_name=login.title(), **more)
    theatre.client.people.create([row])
    return login


def day(theatre: Theatre, days: int) -> str:
    return (theatre.client.clock.show().now + timedelta(days)).date().isoformat()


def test_every_bad_row_is_told_and_the_good_ones_leave_as_each_says(theatre: Theatre) -> None:
    client = theatre.client
    first, second, heir = (
        joined(theatre, "Timetables"),
        joined(theatre, "Safety"),
        newcomer(theatre),
    )
    gone = somebody(theatre)
    leave = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[gone]))
    list(client.dockets.follow(client.plans.confirm(leave)[0].number))
    wide, mate = somebody(theatre, employee_number=unique()), somebody(theatre)
    number = client.people.show(wide).employee_number

    def new() -> str:
        return somebody(theatre)

    bad = [
        ("nobody.here;;;Fri 17:00", "user_name", "Nobody has the login"),
        (f"{new()};;Somebody Else;Fri 17:00", "display_name", "not Somebody Else"),
        (f"{gone};;;now", "row", "has left already"),
        (f"{first};;;Fri 17:00", "user_name", "stands in line 2 as well"),
        (f"{new()};;;", "at", "does not say when"),
        (f"{new()};;;12/06/2027", "at", "two ways"),
        (f"{new()};;;{day(theatre, -3)}", "at", "is past"),
        (f"{new()};;;{day(theatre, 9)};;;{day(theatre, 3)}", "contract_ends", "would end before"),
        (f"{new()};;;{day(theatre, 9)};;soon", "last_day", "not a date"),
        (f"{mate};;;{day(theatre, 9)};;;;{mate}", "successor", "from themselves"),
        (f"{new()};;;{day(theatre, 9)};;;;{gone}", "successor", "has left"),
        (f"{new()};;;{day(theatre, 9)};;;;{first}", "successor", "leaves as well, in line 2"),
        (f"{new()};;;{day(theatre, 9)};;;;no.one", "successor", "Nobody is called"),
        (f"{new()};{number};;{day(theatre, 9)}", "user_name", "is"),
        (";;;now", "row", "names nobody"),
        ("a;b;c;d;e;f;g;h;i;j;k", "row", "has 11 cells"),
    ]
    good = [
        f"{first};;;now;;;;{heir};closing of the desk;HR-7",
        f"{second};;;{day(theatre, 30)};;{day(theatre, 20)};{day(theatre, 40)};;;HR-8",
        f";{number};;;{day(theatre, -1)};;;;;",
    ]
    raw = file_of(
        *good[:2], "# who goes by the end of the season", good[2], *(b for b, _, _ in bad)
    )
    file = check(client, raw)
    found = faults(client, file)
    # Lines count the comment; of two rows about one person the first is taken.
    for line, (row, place, text) in enumerate(bad, 6):
        told = [f for f in found[line] if f.place == place and text in f.text]
        assert told, (line, row, found.get(line))
        assert all(f.remedy for f in found[line]), found[line]
    assert (file.kind, file.new, file.changed, file.same) == (FileKind.LEAVERS, 3, 0, 0)
    with pytest.raises(Conflict, match="file of leavers"):
        next(client.people_files.take(file.id))

    batch = client.people_files.plan(file.id)
    assert client.people_files.show(file.id).new == 3, "nothing is taken before it is confirmed"
    assert client.people.show(second).access_ends is None
    made = client.plans.confirm(batch, reference="HR-1", reason="the file")
    views = {d.subject_login: d for d in (client.dockets.show(m.number) for m in made)}
    assert {k: (v.reference, v.reason) for k, v in views.items()} == {
        first: ("HR-7", "closing of the desk"),
        second: ("HR-8", "the file"),
        wide: ("HR-1", "the file"),
    }
    list(client.dockets.follow(views[first].number))
    user = theatre.play.crew.user(first)
    assert user is not None
    assert not user["active"], "cut off in the application itself"
    later = client.people.show(second)
    assert views[second].state is DocketState.SCHEDULED
    assert later.last_working_day is not None
    assert (later.last_working_day.isoformat(), str(later.contract_ends)) == (
        day(theatre, 20),
        day(theatre, 40),
    )
    successor = client.people.show(first).successor
    assert successor is not None
    assert successor.id == client.people.show(heir).id
    assert client.people_files.show(file.id).taken == 3
    with pytest.raises(Conflict, match="No row"):
        client.people_files.plan(file.id)

    again = check(client, file_of(good[1], f"{mate};;;{day(theatre, 30)}"))
    assert (again.same, again.new) == (1, 1), "the same again says nothing new"
    other = check(
        client,
        file_of(f"{second};;;{day(theatre, 31)};;{day(theatre, 20)};{day(theatre, 40)};;;HR-8"),
    )
    assert other.changed == 1
    client.plans.confirm(client.people_files.plan(other.id))
    ends = client.people.show(second).access_ends
    assert ends is not None
    assert ends.date().isoformat() in (day(theatre, 31), day(theatre, 32))
    assert client.dockets.show(views[second].number).state is DocketState.CANCELLED


def test_what_happens_between_check_and_plan_comes_back(theatre: Theatre) -> None:
    client = theatre.client
    goes, stays, heir = somebody(theatre), somebody(theatre), somebody(theatre)
    days = day(theatre, 5)
    file = check(client, file_of(f"{goes};;;{days}", f"{stays};;;{days};;;;{heir}"))
    assert (file.new, file.faulty) == (2, 0)
    leave = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[goes, heir]))
    for one in client.plans.confirm(leave):
        list(client.dockets.follow(one.number))
    with pytest.raises(Conflict, match="No row"):
        client.people_files.plan(file.id)
    told = [
        f.text for row in faults(client, client.people_files.show(file.id)).values() for f in row
    ]
    assert any("has left already" in t for t in told)
    assert any("cannot take over" in t for t in told)


def test_a_plan_of_a_file_is_bound_to_what_it_was_made_from(theatre: Theatre) -> None:
    """Two plans of the same rows: the second is stale, and the rows are taken once."""
    client = theatre.client
    goes = somebody(theatre)
    file = check(client, file_of(f"{goes};;;{day(theatre, 5)}"))
    one, two = client.people_files.plan(file.id), client.people_files.plan(file.id)
    made = client.plans.confirm(one)
    with pytest.raises(Conflict):
        client.plans.confirm(two)
    assert [d.number for d in client.plans.confirm(one)] == [d.number for d in made]
    assert client.people_files.show(file.id).taken == 1


def test_nobody_lets_themselves_go_by_a_file(theatre: Theatre) -> None:
    client, who = theatre.client, somebody(theatre)
    with for_now(client, unique(), "operator", person=who) as me:
        token = token_of(client, theatre.stage.url, me.login, "operator")
        with Client(theatre.stage.url, token) as own:
            file = check(own, file_of(f"{who};;;{day(theatre, 5)}"))
            told = [f.text for f in faults(own, file)[2]]
    assert told == ["You cannot make yourself a leaver."]


def test_the_command_line_plans_asks_and_gives_back(theatre: Theatre, tmp_path: Path) -> None:
    first, second = somebody(theatre), somebody(theatre)
    path = tmp_path / "leavers.csv"
    path.write_bytes(
        file_of(
            f"{first};;;{day(theatre, 9)}", f"{second};;;{day(theatre, 9)};;;;no.one", mark=False
        )
    )
    looked = cli(theatre, "people", "leavers", str(path), "--check-only")
    assert "1 to leave, 0 to leave otherwise, 0 as planned, 1 faulty" in looked.stdout
    assert looked.returncode == 5
    done = cli(theatre, "people", "leavers", str(path), "--yes", "--reference", "HR-9")
    assert done.returncode == 5, done.stderr
    assert theatre.client.people.show(first).access_ends is not None
    assert theatre.client.people.show(second).access_ends is None
    back = (tmp_path / "leavers-rejected.csv").read_text()
    assert second in back
    assert first not in back
    assert "Nobody is called" in back
    listed = cli(theatre, "leaver", "--file", str(path), "--yes")
    assert "yugum people leavers" in listed.stderr, "a list of logins has no columns"


def test_a_column_that_nobody_knows_is_said(theatre: Theatre) -> None:
    raw = file_of(f"{somebody(theatre)};{day(theatre, 4)}", head="Login;Off")
    with pytest.raises(InvalidInput, match="Nobody knows what the column Off is"):
        check(theatre.client, raw)
    how = wpf.HowToRead(columns={"Off": "at"})
    said = theatre.client.people_files.check("x.csv", raw, kind=FileKind.LEAVERS, how=how)
    assert said.new == 1
    how = wpf.HowToRead(columns={"Off": "department"})
    with pytest.raises(InvalidInput, match="not a field"):
        theatre.client.people_files.check("x.csv", raw, kind=FileKind.LEAVERS, how=how)
