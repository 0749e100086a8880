"""Birthdays tell people apart, and nobody can read one."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import Any

import pytest

from tests.acceptance.test_canaries import logs_of, rows_of
from tests.acceptance.test_people_files import faults, unique
from tests.commands import cli
from tests.conftest import Theatre
from yugum.client import Client
from yugum.core.file_columns import FileKind
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput
from yugum.wire import people as wp
from yugum.wire import people_files as wpf
from yugum.wire import plans as wl

BORN, OTHER_DAY = "1987-11-23", "1988-02-29"


def new(given: str, family: str, birthday: str = "", **more: str) -> wp.NewPerson:
    return wp.NewPerson(
        user_name=unique(), given_name=given, family_name=family, birthday=birthday, **more
    )


@pytest.fixture
def left(theatre: Theatre) -> wp.NewPerson:
    """Somebody with a birthday who has left."""
    client, name = theatre.client, unique().title()
    person = new(f"Given{name}", f"Family{name}", BORN)
    client.people.create([person])
    done = client.plans.confirm(
        client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[person.user_name], at="now"))
    )
    list(client.dockets.follow(done[0].number))
    return person


def test_who_comes_back_under_another_name_is_known_by_the_birthday(
    theatre: Theatre, left: wp.NewPerson
) -> None:
    client = theatre.client
    with pytest.raises(Conflict, match="who has left, had the same birthday") as refused:
        client.people.create([new(left.given_name, "Married", BORN)])
    assert refused.value.place == "birthday"
    assert f"yugum returner {left.user_name}" in refused.value.remedy
    client.people.create([new("Somebody", "Else", BORN)])
    namesake = new(left.given_name, left.family_name)
    with pytest.raises(Conflict, match="the same name"):
        client.people.create([namesake])
    client.people.create([namesake.model_copy(update={"birthday": OTHER_DAY})])
    with pytest.raises(InvalidInput, match="born in 2030"):
        client.people.create([new("Ada", unique(), "2030-01-01")])


def test_a_day_is_said_or_forgotten_afterwards_by_a_command(
    theatre: Theatre, left: wp.NewPerson
) -> None:
    client, other = theatre.client, new(left.given_name, unique().title())
    client.people.create([other])
    told = cli(theatre, "people", "birthday", other.user_name, BORN)
    assert "The same person?" in told.stdout
    assert left.user_name in told.stdout
    assert "--forget" in cli(theatre, "people", "birthday", other.user_name).stderr
    wrong = cli(theatre, "people", "birthday", other.user_name, "23.11.1987")
    assert "1990-05-31" in wrong.stderr
    third = new(other.given_name, unique().title(), OTHER_DAY)
    client.people.create([third])
    assert client.people.birthday(third.user_name, BORN), "both who were born then"
    cli(theatre, "people", "birthday", other.user_name, "--forget")
    assert [s.user_name for s in client.people.birthday(third.user_name, BORN)] == [left.user_name]
    keep = new("Kept", unique().title())
    client.people.create([keep])
    client.people.merge(keep.user_name, third.user_name)
    with pytest.raises(Conflict, match="same birthday"):
        client.people.create([new("Kept", "Elsewhere", BORN)])


def test_a_file_keeps_a_digest_and_brings_it_back(theatre: Theatre, left: wp.NewPerson) -> None:
    client, day, mark = theatre.client, "1979-07-31", unique()
    known = new("Known", mark.title(), day, employee_number=mark)
    client.people.create([known])
    rows = [
        (unique(), "Known", mark.title(), "", day),
        (unique(), left.given_name, "Wed", "", BORN),
        (unique(), "Wrong", mark, "", "31/07/1979"),
        ("", "Known", mark.title(), mark, OTHER_DAY),
        (unique(), "Late", unique(), "Safty", day),
    ]
    file = _checked(
        client, ("Login", "First name", "Last name", "No", "Born on"), rows[:4], leave=True
    )
    file = client.people_files.again(file.id, wpf.HowToRead(columns={"Born on": "birthday"}))
    places = {line: (f[0].place, f[0].text) for line, f in faults(client, file).items()}
    assert places[2][0] == "display_name", places
    assert places[3][0] == "birthday"
    assert "has left and had the same birthday" in places[3][1]
    assert places[4] == ("birthday", "This is no day of birth.")
    assert "born on another day" in places[5][1]
    head = ("Login", "First name", "Last name", "Department", "Date of birth")
    left_out = wpf.HowToRead(columns={"Date of birth": ""})
    for kind, how in ((FileKind.PEOPLE, left_out), (FileKind.LEAVERS, wpf.HowToRead())):
        struck = _checked(client, head, rows[4:], kind=kind, how=how, leave=True)
        assert struck.columns[-1].secret
    file = _checked(client, head, rows[4:])
    assert file.faulty == 1, "a mistyped department"
    rejected = client.people_files.rejected(file.id).decode("utf-8-sig")
    for kept in (rows_of(theatre), logs_of(theatre), rejected):
        assert not [d for d in (day, BORN, OTHER_DAY, "31/07/1979") if d in kept]
    corrected = rejected.replace("Safty", "Safety").encode()
    again = client.people_files.check("again.csv", corrected)
    assert (again.new, again.faulty) == (1, 0)
    list(client.people_files.take(again.id))
    with pytest.raises(Conflict, match="same birthday"):
        client.people.create([new("Late", "Other", day)])
    same = _checked(client, ("Login", "Birthday"), [(rows[4][0], day)])
    assert (same.same, same.faulty) == (1, 0)


def _checked(
    client: Client, head: tuple[str, ...], rows: Sequence[tuple[str, ...]], **more: Any
) -> wpf.PeopleFileView:
    out = io.StringIO()
    csv.writer(out).writerows([head, *rows])
    return client.people_files.check("born.csv", out.getvalue().encode(), **more)
