"""People from a file: every fault is told by its row and place, good rows are taken once."""

from __future__ import annotations

import csv
import io
import threading
import uuid
from pathlib import Path

import psycopg
import pytest

from tests.acceptance.test_service import newcomer
from tests.commands import cli
from tests.conftest import Theatre
from tests.signing import for_now, token_of
from yugum.client import Client
from yugum.core.people_file import RowState
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.wire import people as wp
from yugum.wire import people_files as wpf
from yugum.wire import plans as wl

HEAD = (
    *("Login", "First name", "Last name", "No", "Department", "Site", "Title", "Manager"),
    *("E-mail", "Private mail", "Mobile", "Start date", "Contract ends", "Time zone", "Language"),
    "Another",
)


def unique() -> str:
    return f"f{uuid.uuid4().hex[:8]}"


def file_of(*rows: dict[str, str], head: tuple[str, ...] = HEAD) -> bytes:
    out = io.StringIO()
    writer = csv.DictWriter(out, head, delimiter=";")
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue().encode("utf-8-sig")


def person(**more: str) -> dict[str, str]:
    """A row that is right but for what is said of it."""
    login = unique()
    row = {"Login": login, "First name": "Ada", "Last name": login.title(), "Department": "Safety"}
    return row | {name.replace("_", " "): value for name, value in more.items()}


def faults(client: Client, file: wpf.PeopleFileView) -> dict[int, list[wpf.FaultView]]:
    return {
        row.line: row.faults
        for row in client.people_files.rows(file.id, RowState.FAULTY, limit=200).items
    }


@pytest.fixture(scope="module")
def bad(theatre: Theatre) -> list[tuple[dict[str, str], str, str]]:
    """Rows with one fault each: the place, and what is said of it."""
    client = theatre.client
    known = newcomer(theatre, "Safety", employee_number=f"00{unique()[1:]}", site="Brae Point")
    there = client.people.show(known)
    gone = newcomer(theatre)
    done = client.plans.confirm(
        client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[gone], at="now"))
    )
    list(client.dockets.follow(done[0].number))
    twice, mail = person(), f"{unique()}@morrowsound.example"
    number = str(uuid.uuid4().int)[:9]
    client.people.change(known, {"mail": mail}, reason="")
    return [
        (person(Department="Safty"), "department", "nearest: Safety"),
        (person(Department="safety"), "department", "nearest: Safety"),
        (person(Login="no login!"), "user_name", "lower-case"),
        (twice, "", ""),
        (twice | {"Last name": "Other"}, "user_name", "stands in line"),
        (person(Login=known, No="x-77"), "user_name", "is that of no."),
        (person(Login=gone), "user_name", "who has left"),
        ({"First name": "Test", "Last name": known.upper()}, "display_name", "has the same name"),
        (person(No="4,7E+11"), "employee_number", "spreadsheet"),
        *((person(No=f"0{n}{number}"), "", "") for n in range(4)),
        (person(No=number), "employee_number", "lost its noughts"),
        (person() | {"E-mail": "nobody"}, "mail", "no mail address"),
        (person() | {"E-mail": mail}, "mail", f"address of {there.display_name}"),
        (person(Private_mail="a@b@c"), "outside_mail", "no mail address"),
        (person(Mobile="call me"), "mobile", "no telephone number"),
        (person(Start_date="03/04/2031"), "starts", "two ways"),
        (
            person(Start_date="2031-05-02", Contract_ends="2031-05-01"),
            "contract_ends",
            "before they begin",
        ),
        (person(Manager="nobody-of-that-name"), "manager", "nobody-of-that-name"),
        (person(Login="self.made", Manager="self.made"), "manager", "manage themselves"),
        (person(Time_zone="Europe/Nowhere"), "time_zone", "time zone"),
        (person(Language="Klingon!"), "preferred_language", "language tag"),
        (person(Another="perhaps"), "another", "is not yes"),
        ({"Title": "Ghost"}, "user_name", "No login can be made"),
    ]


def test_every_fault_is_told_by_row_and_place_in_service_and_command_line(
    theatre: Theatre, bad: list[tuple[dict[str, str], str, str]], tmp_path: Path
) -> None:
    raw = file_of(*(row for row, _, _ in bad))
    file = theatre.client.people_files.check("bad.csv", raw)
    found = faults(theatre.client, file)
    for line, (_, place, text) in enumerate(bad, 2):
        if place:
            told = [f for f in found[line] if f.place == place and text in f.text]
            assert told, (line, place, found[line])
            assert told[0].remedy
        else:
            assert line not in found
    assert (file.new, file.faulty) == (5, len(bad) - 5)
    here = tmp_path / "bad.csv"
    here.write_bytes(raw)
    done = cli(theatre, "people", "file", str(here), "--check-only")
    assert done.returncode == 5
    assert "line 2, department: Nobody else has Safty; nearest: Safety." in done.stdout
    back = (tmp_path / "bad-rejected.csv").read_bytes()
    assert back.startswith(b"\xef\xbb\xbfLogin;First name;")
    again = theatre.client.people_files.check("again.csv", back)
    # Who was named twice is named once in the file of rejected rows, and no circle is left open.
    assert again.faulty == len(bad) - 7


def test_good_rows_are_taken_once_and_in_the_order_of_who_manages_whom(theatre: Theatre) -> None:
    client, number = theatre.client, unique()
    boss, clerk = person(No=number, Title="Lead"), person(Title="Clerk")
    clerk["Manager"] = number
    unnamed = {"First name": "Ödön", "Last name": f"Ő{unique()}", "Department": "Safety"}
    unnamed["Manager"] = clerk["Login"]
    known = newcomer(theatre, "Safety", title="Old", mobile="+44 20 7946 0000")
    change = {"Login": known, "Title": "New", "Mobile": "-"}
    raw = file_of(unnamed, clerk, boss, change)
    file = client.people_files.check("good.csv", raw, how=wpf.HowToRead(empties="-"))
    assert (file.new, file.changed, file.faulty) == (3, 1, 0)
    with pytest.raises(NotFound):
        client.people.show(boss["Login"])
    *_, last = client.people_files.take(file.id)
    assert (last.taken, last.new, last.changed) == (4, 0, 0)
    above = client.people.show(clerk["Login"]).manager
    assert above is not None
    assert above.id == client.people.show(number).id
    after = client.people.show(known)
    assert (after.title, after.mobile) == ("New", "")
    made = client.people.page(q=unnamed["Last name"]).items[0]
    assert made.user_name.startswith("o")
    assert made.manager_name == client.people.show(clerk["Login"]).display_name
    again = client.people_files.check("good.csv", raw, how=wpf.HowToRead(empties="-"))
    # Whom the file names by nothing but a name may be another person of that name.
    assert (again.new, again.changed, again.same, again.faulty) == (0, 0, 3, 1)
    with pytest.raises(Conflict, match="have been taken"):
        client.people_files.again(file.id, wpf.HowToRead())
    assert next(client.people_files.take(file.id)).taken == 4


def test_what_somebody_else_did_meanwhile_is_not_written_over(theatre: Theatre) -> None:
    client = theatre.client
    first, second = person(), person(No=unique())
    known = newcomer(theatre, "Safety", title="Old")
    raw = file_of(first, second, {"Login": known, "Title": "From the file"}, person())
    file = client.people_files.check("late.csv", raw)
    client.people.create([wp.NewPerson(user_name=first["Login"], family_name="Taken")])
    client.people.create(
        [wp.NewPerson(user_name=unique(), family_name="No", employee_number=second["No"])]
    )
    client.people.change(known, {"title": "By hand"}, reason="")
    *_, last = client.people_files.take(file.id)
    assert (last.taken, last.faulty) == (1, 3)
    told = [f.text for row in faults(client, last).values() for f in row]
    assert [t.split(" was ")[0] for t in told] == ["The login", "The number", "The person"]
    assert client.people.show(known).title == "By hand"


def test_who_reports_to_somebody_who_was_not_taken_waits_and_nobody_else(theatre: Theatre) -> None:
    client = theatre.client
    boss, other = person(), person()
    clerk = person(Manager=boss["Login"])
    below, moved = person(Manager=clerk["Login"]), newcomer(theatre)
    rows = (below, clerk, boss, other, {"Login": moved, "Manager": boss["Login"]})
    file = client.people_files.check("line.csv", file_of(*rows))
    assert (file.new, file.changed) == (4, 1)
    client.people.create([wp.NewPerson(user_name=boss["Login"], family_name=unique())])
    *_, last = client.people_files.take(file.id)
    assert (last.taken, last.faulty) == (1, 4)
    told = [f.text for row in faults(client, last).values() for f in row]
    assert told.count("Their manager was not taken.") == 3
    assert client.people.show(other["Login"]).user_name == other["Login"]


def test_two_who_take_at_once_take_every_row_once(theatre: Theatre) -> None:
    client, mark = theatre.client, unique()
    last = person(Title=mark)
    rows = [*(person(Title=mark, Manager=last["Login"]) for _ in range(1199)), last]
    file = client.people_files.check("many.csv", file_of(*rows))
    errors: list[BaseException] = []

    def take() -> None:
        try:
            with Client(theatre.stage.url, theatre.token, timeout=120) as own:
                list(own.people_files.take(file.id))
        except BaseException as error:  # noqa: BLE001 - told below
            errors.append(error)

    threads = [threading.Thread(target=take) for _ in range(2)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert errors == []
    assert client.people_files.show(file.id).taken == len(rows)
    assert client.people.page(filter=f'title eq "{mark}"', limit=1).total == len(rows)


def test_a_new_value_is_asked_about_once_and_a_column_is_said(theatre: Theatre) -> None:
    client = theatre.client
    row = person() | {"Department": "Safetyy"}
    raw = file_of(row | {"Shoe": "42"}, head=(*HEAD, "Shoe"))
    with pytest.raises(InvalidInput, match="Nobody knows what the column Shoe is"):
        client.people_files.check("shoe.csv", raw)
    file = client.people_files.check("shoe.csv", raw, leave=True)
    assert [c.field for c in file.columns][-1] == ""
    assert faults(client, file)[2][0].value == "Safetyy"
    body = wpf.HowToRead(columns={"Shoe": "cost_center"}, accepted={"department": ["Safetyy"]})
    said = client.people_files.again(file.id, body)
    assert (said.new, said.faulty) == (1, 0)
    list(client.people_files.take(file.id))
    assert client.people.show(row["Login"]).cost_center == "42"
    for wrong in ({"columns": {"Foot": "title"}}, {"columns": {"Shoe": "foot"}}):
        with pytest.raises(InvalidInput):
            client.people_files.check("shoe.csv", raw, leave=True, how=wpf.HowToRead(**wrong))
    typed = cli(theatre, "people", "file", __file__, "--new", "title=x")
    assert "need nobody's word" in typed.stderr


def test_a_column_that_is_taken_for_another_ends_the_check_at_once(theatre: Theatre) -> None:
    client = theatre.client
    wrong = [person(Department=f"{unique()} {n}") for n in range(1001)]
    with pytest.raises(InvalidInput, match="is the column that"):
        client.people_files.check("wrong.csv", file_of(*wrong))
    same = [{"First name": "A", "Last name": unique(), "Department": "Safety"}] * 201
    file = client.people_files.check("same.csv", file_of(*same))
    assert (file.new, file.faulty) == (0, 201)
    assert "More than 200 rows" in faults(client, file)[2][0].text


def test_what_nobody_may_keep_is_nowhere(theatre: Theatre) -> None:
    client, secret = theatre.client, uuid.uuid4().hex
    head = (*HEAD, "Initial password")
    raw = file_of(person(No="4E+5") | {"Initial password": secret}, head=head)
    file = client.people_files.check("secret.csv", raw)
    assert file.columns[-1].secret
    assert secret.encode() not in client.people_files.rejected(file.id)
    with psycopg.connect(theatre.stage.env["YUGUM_DATABASE_URL"]) as connection:
        query = "SELECT f.content, r.cells FROM people_files f JOIN people_file_rows r ON r.file_id = f.id"
        kept = connection.execute(query + " WHERE f.id = %s", [file.id]).fetchall()
    assert kept
    assert secret not in str(kept)
    client.people_files.drop(file.id)
    with pytest.raises(NotFound, match="There is no file"):
        client.people_files.show(file.id)


@pytest.mark.parametrize(
    ("typed", "told", "one"),
    [
        ({"department": "Safety"}, {}, True),
        (
            {"outside_mail": "at.the.desk@home.example"},
            {"Private mail": "at.the.desk@home.example"},
            True,
        ),
        ({"starts": "2031-04-07"}, {"Start date": "2031-04-07", "Department": "Deck"}, True),
        ({"department": "Deck"}, {}, False),
        ({"department": "Safety", "employee_number": "00417"}, {}, False),
        ({"department": "Safety"}, {"No": ""}, False),
    ],
)
def test_who_was_entered_at_the_desk_is_one_person_when_the_source_tells_of_them(
    theatre: Theatre, typed: dict[str, str], told: dict[str, str], one: bool
) -> None:
    client, row = theatre.client, person(No=unique()) | told
    typed = {n: v.replace("00417", unique()).replace("at.the", unique()) for n, v in typed.items()}
    row["Private mail"] = typed.get("outside_mail", "")
    login = row.pop("Login")
    names = {"given_name": row["First name"], "family_name": row["Last name"]}
    client.people.create([wp.NewPerson(user_name=login, **names, **typed)])
    before = client.people.show(login)
    file = client.people_files.check("noon.csv", file_of(row))
    assert (file.changed, file.faulty) == ((1, 0) if one else (0, 1)), faults(client, file)
    if not one:
        assert "has the same name" in faults(client, file)[2][0].text
        return
    list(client.people_files.take(file.id))
    after = client.people.show(row["No"])
    assert (after.id, after.user_name) == (before.id, login)
    assert client.people_files.check("noon.csv", file_of(row)).same == 1


def test_nobody_corrects_themselves_by_a_file(theatre: Theatre) -> None:
    client, who = theatre.client, newcomer(theatre, title="Clerk")
    with for_now(client, unique(), "operator", person=who) as me:
        token = token_of(client, theatre.stage.url, me.login, "operator")
        with Client(theatre.stage.url, token) as own:
            rows = ({"Login": who, "Title": "Director"}, person())
            file = own.people_files.check("me.csv", file_of(*rows))
            assert (file.changed, file.new) == (1, 1)
            *_, last = own.people_files.take(file.id)
            assert (last.taken, last.faulty) == (1, 1)
            assert "decides about themselves" in faults(own, last)[2][0].text
    assert client.people.show(who).title == "Clerk"


def test_a_viewer_sees_a_file_and_takes_nothing(theatre: Theatre) -> None:
    file = theatre.client.people_files.check("seen.csv", file_of(person()))
    with Client(
        theatre.stage.url, token_of(theatre.client, theatre.stage.url, "iholm", "viewer")
    ) as own:
        assert own.people_files.show(file.id).new == 1
        for act in (
            lambda: own.people_files.drop(file.id),
            lambda: own.people_files.rejected(file.id),
        ):
            with pytest.raises(Exception, match="needs the role operator"):
                act()
