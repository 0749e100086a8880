"""The proof ``coming-in``: people from a file, whose faults are told by row and place."""

from __future__ import annotations

import html
import re
import subprocess

from tests.proofs.inviting import inviting
from tests.proofs.play import Play
from yugum.core.file_columns import FileKind
from yugum.core.people_file import RowState
from yugum.core.verbs import Verb
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire.people_files import PeopleFileView
from yugum_standins.morrow import REPORTING

HEAD = "Login;First name;Last name;No;Department;Site;Manager;E-mail;Phone;First day;Contract ends;Initial password"
WRONG = {
    "department": "typo;Ty;Po;049110;Dekc;Oxhaven;;;;;;",
    "user_name": "no login;No;Login;049111;Deck;Oxhaven;;;;;;",
    "user_name 2": "fresh1;Twice;Named;049112;Deck;Oxhaven;;;;;;",
    "employee_number": "sci;Spread;Sheet;4,9E+04;Deck;Oxhaven;;;;;;",
    "employee_number 2": "zero;Lost;Nought;812;Deck;Oxhaven;;;;;;",
    "employee_number 3": "same.no;Same;Number;049101;Deck;Oxhaven;;;;;;",
    "mail": "no.mail;No;Mail;049113;Deck;Oxhaven;;nobody;;;;",
    "phone": "no.phone;No;Phone;049114;Deck;Oxhaven;;;call me;;;",
    "starts": "two.ways;Two;Ways;049115;Deck;Oxhaven;;;;03/04/2031;;",
    "contract_ends": "back;Back;Wards;049116;Deck;Oxhaven;;;;2031-05-02;2031-05-01;",
    "manager": "whose;Who;Knows;049117;Deck;Oxhaven;somebody else;;;;;",
    "manager 2": "circle;Cir;Cle;049118;Deck;Oxhaven;circle;;;;;",
    "row": "many;Ma;Ny;049119;Deck;Oxhaven;;;;;;;;",
}
"""A row for each fault by the place it is told at; the other faults are of people who are there."""
GOOD = 14


def coming_in(play: Play) -> None:
    """A file of thirty people: good ones are taken, the others come back, once told apart."""
    client, report = play.client, play.report
    there, twin, gone = (play.organisation.people[n] for n in (50, 51, 52))
    report.section("Somebody has left; a file of thirty rows with fourteen kinds of fault comes")
    play.confirm(play.plan(Verb.LEAVER, gone.user_name, at="now"))
    good = [
        f"fresh{n};Given{n};Fresh{n};0491{n:02};Deck;Oxhaven;{'fresh1' if n > 1 else ''};;;;;"
        for n in range(1, GOOD + 1)
    ]
    told = [
        f"{there.user_name};;;;;;;;+44 20 7946 0123;;;",
        *WRONG.values(),
        f"{gone.user_name};;;;Deck;;;;;;;",
        f";{twin.given_name};{twin.family_name};;Deck;Oxhaven;;;;;;",
    ]
    lines = [
        "# as of today",
        HEAD,
        *(f"{row}s3cret" for row in good),
        "",
        *told,
        "zeros;Ze;Ros;049130;Deck;Oxhaven;;;;;;",
    ]
    raw = "\r\n".join(lines).encode("utf-8-sig")
    file = client.people_files.check("staff.csv", raw)
    report.note(f"{file.new} new, {file.changed} changed, {file.faulty} faulty; {file.encoding}")
    _faults(play, file, lines)
    report.equal("nobody is there before they are taken", _there(play), 0)
    report.check(
        "the credential in it is kept nowhere",
        b"s3cret" not in client.people_files.rejected(file.id),
    )

    report.section("The good rows are taken")
    *_, file = client.people_files.take(file.id)
    report.equal("fifteen new people and a correction", file.taken, GOOD + 2)
    report.equal("they are there", _there(play), GOOD)
    report.equal(
        "the number is corrected", client.people.show(there.user_name).phone, "+44 20 7946 0123"
    )
    boss = client.people.show("fresh2").manager
    report.equal("their manager came with the file", boss and boss.name, "Given1 Fresh1")
    again = client.people_files.check("again.csv", raw)
    report.equal("the same file again has nobody new", (again.new, again.changed), (0, 0))
    back = client.people_files.check("rejected.csv", client.people_files.rejected(file.id))
    report.check("the rejected rows are a file of their own form", back.faulty >= len(WRONG), back)

    _reception(play)
    _birthdays(play)
    _credentials(play)
    _leavers(play)
    report.section("What the application itself answers")
    report.equal("Crew rosters knows nobody of the file", play.crew.user("fresh1"), None)
    batch = client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=["fresh1"]))
    list(client.dockets.follow(client.plans.confirm(batch)[0].number))
    user = play.crew.user("fresh1")
    report.check("after the joiner it has an active account", bool(user and user["active"]), user)
    play.confirm(play.plan(Verb.LEAVER, "fresh1", at="now"))
    user = play.crew.user("fresh1")
    report.check("after the leaver it is closed", bool(user and not user["active"]), user)
    inviting(play)


def _reception(play: Play) -> None:
    """Somebody stands at the reception whom no source has told of yet."""
    client, report = play.client, play.report
    report.section("At reception, before a source knows them; the source reports at noon")
    said = {"given_name": "Runa", "family_name": "Desk", "department": "Deck", "site": "Oxhaven"}
    client.people.create([wp.NewPerson(user_name="rdesk", starts="today", **said)])
    play.confirm(play.plan(Verb.JOINER, "rdesk"))
    user = play.crew.user("rdesk")
    report.check("Crew rosters says: active, minutes later", bool(user and user["active"]), user)
    before = client.people.show("rdesk")
    raw = b"No,First name,Last name,Department,Site,Title\n049201,Runa,Desk,Deck,Oxhaven,Bosun\n"
    file = client.people_files.check("noon.csv", raw)
    report.equal("the row is theirs, nobody new", (file.new, file.changed, file.faulty), (0, 1, 0))
    list(client.people_files.take(file.id))
    after = client.people.show("049201")
    report.equal("one person, with a number now", (after.id, after.user_name), (before.id, "rdesk"))
    again = play.crew.user("rdesk")
    report.check("with the same account", bool(user and again and again["id"] == user["id"]), again)


def _birthdays(play: Play) -> None:
    """Somebody comes back under another name, and a namesake who is somebody else."""
    client, report = play.client, play.report
    report.section("Told apart by a birthday, of which only a digest is kept")
    head, born = "Login,First name,Last name,Department,Date of birth", "1983-10-17"
    first = f"{head}\nsnorth,Sunniva,North,Deck,{born}\n".encode()
    list(client.people_files.take(client.people_files.check("born.csv", first).id))
    play.confirm(play.plan(Verb.LEAVER, "snorth", at="now"))
    rows = ("married,Sunniva,Wed", born), ("twin,Sunniva,North", "1991-02-03")
    raw = "\n".join([head, *(f"{who},Deck,{day}" for who, day in rows)]).encode()
    file = client.people_files.check("back.csv", raw)
    (row,) = client.people_files.rows(file.id, RowState.FAULTY).items
    text = row.faults[0].text
    report.equal("a new family name is not a new person", row.login, "married")
    report.check(text, "has left and had the same birthday" in text, text)
    report.equal("a namesake born on another day is not asked about", file.new, 1)
    dumped = ["pg_dump", "--data-only", play.stage.env["YUGUM_DATABASE_URL"]]
    text = subprocess.run(dumped, capture_output=True, text=True, check=True).stdout
    report.check(
        "pg_dump has her name and no day of birth",
        "Sunniva" in text and born not in text and "1991-02-03" not in text,
    )


def _credentials(play: Play) -> None:
    """Forty people get new credentials; those of an application go out on paper."""
    client, report = play.client, play.report
    report.section("New credentials for forty, and slips")
    people = client.people.page(department="Deck", state="active", limit=40).items
    who = [p.user_name for p in people]
    made = [r for wave in client.credentials.issue(who, [REPORTING], reason="new") for r in wave]
    report.equal("forty people are asked for", len(who), 40)
    report.check("each open account gets one of its own", not [r for r in made if r.problem], made)
    for row in made:
        list(client.dockets.follow(row.docket))
    page = client.credentials.slips(who, [REPORTING]).decode()
    found = re.findall(r"<dt>Login</dt><dd>(.*?)</dd><dt>Password</dt><dd>(.*?)</dd>", page)
    report.equal("a slip for each", len(found), len(made))
    report.equal("all passwords differ", len({p for _, p in found}), len(found))
    login, secret = found[0]
    let_in = play.reporting.sign_in(login, html.unescape(secret))
    report.check("the database lets in who types what is on the paper", let_in, login)
    again = client.credentials.slips(who, [REPORTING]).decode()
    report.equal("nothing is printed twice", again.count('class="slip"'), 0)


def _leavers(play: Play) -> None:
    """A file of leavers with a mark, a comment, a duplicate and an unknown row."""
    client, report = play.client, play.report
    first, second, heir = (play.organisation.people[n] for n in (60, 61, 62))
    report.section(
        "A file of leavers comes: a byte-order mark, a comment, a duplicate, an unknown row"
    )
    lines = [
        "Login;Access ends;Successor;Reason;Ticket",
        f"{first.user_name};now;{heir.user_name};end of season;HR-31",
        "# the next one stays until the end of the month",
        f"{second.user_name};+20d;;;HR-32",
        f"{first.user_name};now;;;HR-31",
        "nobody.at.all;now;;;HR-33",
    ]
    raw = "\r\n".join(lines).encode("utf-8-sig")
    file = client.people_files.check("leavers.csv", raw, kind=FileKind.LEAVERS)
    rows = client.people_files.rows(file.id, RowState.FAULTY).items
    told = {r.line: " ".join(f.text for f in r.faults) for r in rows}
    report.check("the duplicate is told by its line", "in line 2" in told.get(5, ""), told)
    report.check("the unknown row too", "Nobody has the login" in told.get(6, ""), told)
    report.equal("the two others are good", file.new, 2)
    dockets = client.plans.confirm(client.people_files.plan(file.id), reason="the file")
    views = {d.subject_login: d for d in (client.dockets.show(m.number) for m in dockets)}
    report.equal(
        "each with its own reference and reason",
        [(d.reference, d.reason) for n in (first, second) for d in [views[n.user_name]]],
        [("HR-31", "end of season"), ("HR-32", "the file")],
    )
    list(client.dockets.follow(views[first.user_name].number))
    user = play.crew.user(first.user_name)
    report.check("Crew rosters says: closed", not (user and user["active"]), user)
    other = play.crew.user(second.user_name)
    report.check("and the other one still works", bool(other and other["active"]), other)
    taken = client.people.show(first.user_name).successor
    report.equal(
        "their successor is who the row says",
        taken and taken.id,
        client.people.show(heir.user_name).id,
    )
    report.equal("rows are taken once", client.people_files.show(file.id).taken, 2)


def _faults(play: Play, file: PeopleFileView, lines: list[str]) -> None:
    report = play.report
    rows = {
        r.line: r for r in play.client.people_files.rows(file.id, RowState.FAULTY, limit=200).items
    }
    for place, row in WRONG.items():
        faults = rows[lines.index(row) + 1].faults if lines.index(row) + 1 in rows else []
        found = [f for f in faults if f.place == place.split()[0]]
        text = found[0].text if found else "nothing"
        report.check(
            f"line {lines.index(row) + 1}, {place.split()[0]}: {text}", bool(found), faults
        )
    texts = [f.text for r in rows.values() for f in r.faults]
    near = "Nobody else has Dekc; nearest: Deck."
    report.check("the mistyped department is named with its nearest value", near in texts, texts)
    report.check(
        "who comes back is told from who is new", any("has left" in t for t in texts), texts
    )
    report.check("a namesake is shown", any("has the same name" in t for t in texts), texts)


def _there(play: Play) -> int:
    return len([p for p in play.client.people.all(q="fresh") if p.user_name.startswith("fresh")])
