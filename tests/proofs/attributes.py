"""The proof ``attributes``: who somebody is reaches every application, two of other people's among them."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import bonsai
import httpx
import psycopg
import yaml

from tests.outside import Outside
from tests.proofs.leaver import refused
from tests.proofs.mail import OUTSIDE, takes
from tests.proofs.play import Play
from yugum.client.groups import group_plan
from yugum.core.applications import Deletion, Trust
from yugum.core.deviations import DeviationKind, DeviationState
from yugum.core.verbs import Verb
from yugum.wire import applications as wap
from yugum.wire import decisions as wde
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.directory import BASE
from yugum_standins.load import advance
from yugum_standins.look import ACCOUNT
from yugum_standins.morrow import CREW, DIRECTORY, MAIL, RULES, SHIP_MAIL, SITES, TICKETS, ZONE
from yugum_standins.scim_groups import OWN_GROUP

SHE = "alindqvist"
YARD, OFFICE = "boat-yard", "crew-office"
PHONE, OTHER_PHONE = "+00 555 0160", "+00 555 0161"


def attributes(play: Play) -> None:
    with Outside("node") as yard, Outside("django") as office:
        _connect(play, yard, office)
        _join(play, yard, office)
        _tried(play)
        _move(play, yard)
        _rename(play, yard, office)
        _boss(play)
        _level(play)
        _groups(play)
        _too_long(play)
        _outside(play)
        _sensitive(play, yard, office)


def _connect(play: Play, yard: Outside, office: Outside) -> None:
    play.report.section("Two SCIM servers that are not ours are connected, and the rules name them")
    for one, name in ((yard, YARD), (office, OFFICE)):
        play.client.applications.connect(
            wap.ConnectApplication(
                id=name,
                name=name.replace("-", " ").capitalize(),
                kind="scim",
                trust=Trust.FULL,
                url=one.url,
                secret=one.token,
                profile=wap.ProfileDocument(deletion=Deletion.PARK),
            )
        )
    rules = yaml.safe_load(RULES)
    for name in (YARD, OFFICE, SHIP_MAIL):
        rules["accounts"][name] = {"keep": "in_step"}
    # It makes the display name itself and keeps few attributes, whatever its schemas say.
    known = next(a for a in play.client.applications.all() if a.id == OFFICE).attributes
    never = {a.name for a in known} - {"name.givenName", "name.familyName", "emails.work"}
    rules["accounts"][OFFICE]["attributes"] = {n: {"of": ""} for n in sorted(never)}
    rules["roles"]["Boats"] = {
        "when": 'own.boat_licence eq "coastal"',
        "gives": [
            {"application": YARD, "entitlements": ["Deck"]},
            {"application": OFFICE, "entitlements": ["Deck", "Night duty"]},
        ],
    }
    home = {"of": "/home/{login}"}
    rules["accounts"][DIRECTORY]["attributes"]["homeDirectory"] = home
    rules["roles"]["Ship mail"]["when"] = 'title sw "Boat"'
    play.client.rules.adopt(yaml.safe_dump(rules, sort_keys=False), "boats")


def _entry(play: Play, who: str) -> dict[str, str]:
    found = play.directory.entry(who)
    return {k: str(v[0]) for k, v in found.items() if v}


def _mail(play: Play, who: str) -> dict[str, Any]:
    other = play.organisation.others[MAIL]
    with httpx.Client(headers=other["headers"], timeout=20) as wire:
        reply = wire.get(f"{other['url']}/scim/v2/Users", params={"filter": f'userName eq "{who}"'})
    found = reply.json()["Resources"]
    return dict(found[0]) if found else {}


def _work(user: dict[str, Any]) -> dict[str, Any]:
    return dict(user.get("urn:ietf:params:scim:schemas:extension:enterprise:2.0:User", {}))


def _mailbox(play: Play, who: str) -> tuple[str, str]:
    with psycopg.connect(play.stage.mail_stores[0].url) as connection:
        row = connection.execute(
            "SELECT display_name, address FROM mailboxes WHERE login = %s", (who,)
        ).fetchone()
    return (row[0], row[1]) if row else ("", "")


def _mark(play: Play, who: str) -> str:
    return play.reporting.mark(who).partition("\n")[2]


def _boss_of(play: Play, title: str) -> str:
    return next(p.user_name for p in play.organisation.people if p.title == title)


def _join(play: Play, yard: Outside, office: Outside) -> None:
    report, client = play.report, play.client
    report.section("A joiner's accounts have names, address, number, phone and manager")
    boss = _boss_of(play, "Head of Timetables")
    client.people.create(
        [
            wp.NewPerson(
                user_name=SHE,
                given_name="Alma",
                family_name="Lindqvist",
                employee_number="49001",
                department="Timetables",
                title="Boat planner",
                site="Oxhaven",
                manager=boss,
                mail=f"{SHE}@morrowsound.example",
                phone=PHONE,
                cost_center="140",
                time_zone=ZONE,
                own={"boat_licence": "coastal"},
            )
        ]
    )
    docket = play.confirm(play.plan(Verb.JOINER, SHE))
    report.equal("the docket is done", docket.outcome, "done")
    entry, user = _entry(play, SHE), _mail(play, SHE)
    report.equal(
        "directory: name, address, number, phone, title, department, site",
        [entry.get(n) for n in ("cn", "sn", "mail", "employeeNumber", "telephoneNumber", "title",
                                "departmentNumber", "l")],
        ["Alma Lindqvist", "Lindqvist", f"{SHE}@morrowsound.example", "49001", PHONE,
         "Boat planner", "Timetables", "Oxhaven"],
    )  # fmt: skip
    report.check("directory: manager", f"uid={boss}," in entry.get("manager", ""), entry)
    report.equal(
        "mail and calendar: family name", user.get("name", {}).get("familyName"), "Lindqvist"
    )
    report.equal(
        "mail and calendar: address", user["emails"][0]["value"], f"{SHE}@morrowsound.example"
    )
    report.equal("mail and calendar: phone", user["phoneNumbers"][0]["value"], PHONE)
    report.equal(
        "mail and calendar: number and cost centre",
        (_work(user).get("employeeNumber"), _work(user).get("costCenter")),
        ("49001", "140"),
    )
    report.equal(
        "mail and calendar: manager, by their account there",
        _work(user).get("manager", {}).get("value"),
        _mail(play, boss)["id"],
    )
    report.equal(
        "ship mail: name and address",
        _mailbox(play, SHE),
        ("Alma Lindqvist", f"{SHE}@morrowsound.example"),
    )
    report.equal(
        "reporting database: comment", _mark(play, SHE), "Alma Lindqvist, Boat planner, Oxhaven"
    )
    mine = yard.user(SHE)
    report.equal(
        "boat yard (not ours): name, title, address",
        (mine["name"]["familyName"], mine["title"], mine["emails"][0]["value"]),
        ("Lindqvist", "Boat planner", f"{SHE}@morrowsound.example"),
    )
    report.equal("boat yard: in its group", yard.groups(SHE), {"Deck"})
    theirs = office.user(SHE)
    report.equal(
        "crew office (not ours): name and address",
        (theirs["name"]["familyName"], theirs["emails"][0]["value"]),
        ("Lindqvist", f"{SHE}@morrowsound.example"),
    )
    report.equal("crew office: in both groups", office.groups(SHE), {"Deck", "Night duty"})


def _tried(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A new account is tried before the day, closed as it is")
    client.people.create(
        [
            wp.NewPerson(
                user_name="tgrove",
                given_name="Tova",
                family_name="Grove",
                employee_number="49009",
                department="Timetables",
                title="Timetable planner",
                starts=(play.now + timedelta(days=3)).date().isoformat(),
                time_zone=ZONE,
            )
        ]
    )
    view = play.confirm(play.plan(Verb.JOINER, "tgrove"))
    tried = [s for s in view.steps if s.action == "try_sign_in"]
    said = [(s.state, s.receipt.did.note if s.receipt else "") for s in tried]
    report.equal("the directory let the new account in", said, [("done", "signed in")])
    locked = play.directory.entry("tgrove").get("pwdAccountLockedTime")
    report.equal("and it is closed until the first day", locked, ["000001010000Z"])
    row = next(r for r in client.people.joiners() if r.user_name == "tgrove")
    line = next(x for x in row.lines if x.application_id == DIRECTORY)
    report.equal("who is ready shows it", line.tried, "sign-in tried")


def _move(play: Play, yard: Outside) -> None:
    report = play.report
    report.section("A new title and site")
    batch = play.plan(
        Verb.MOVER, SHE, changes={"title": "Boat lead", "site": "Brae Point", "nick_name": "Al"}
    )
    changed = {c.field: (c.before, c.after) for c in batch.plans[0].changed}
    report.equal(
        "the plan names every changed field",
        changed,
        {
            "title": ("Boat planner", "Boat lead"),
            "site": ("Oxhaven", "Brae Point"),
            "nick_name": ("", "Al"),
        },
    )
    moved = play.confirm(batch)
    report.equal("the docket is done", moved.outcome, "done")
    _is(play, yard, "Boat lead", "Brae Point")
    report.section("Undone")
    batch = play.client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=moved.number))
    for line in batch.plans[0].fidelity:
        report.note(f"{line.what}: {line.why}")
    report.equal("the undo is done", play.confirm(batch).outcome, "done")
    _is(play, yard, "Boat planner", "Oxhaven")


def _is(play: Play, yard: Outside, title: str, site: str) -> None:
    report, entry, user = play.report, _entry(play, SHE), _mail(play, SHE)
    report.equal("directory", (entry.get("title"), entry.get("l")), (title, site))
    report.equal(
        "mail and calendar", (user.get("title"), user["addresses"][0]["locality"]), (title, site)
    )
    report.equal("reporting database", _mark(play, SHE), f"Alma Lindqvist, {title}, {site}")
    mine = yard.user(SHE)
    report.equal(
        "boat yard (not ours)", (mine["title"], mine["addresses"][0]["locality"]), (title, site)
    )


def _rename(play: Play, yard: Outside, office: Outside) -> None:
    report = play.report
    report.section("A new family name")
    changes = {"family_name": "Sund"}
    report.equal(
        "the docket is done",
        play.confirm(play.plan(Verb.RENAME, SHE, changes=changes)).outcome,
        "done",
    )
    user = _mail(play, SHE)
    report.equal(
        "directory",
        (_entry(play, SHE).get("sn"), _entry(play, SHE).get("cn")),
        ("Sund", "Alma Sund"),
    )
    report.equal(
        "mail and calendar",
        (user["name"]["familyName"], user["displayName"]),
        ("Sund", "Alma Sund"),
    )
    report.equal("boat yard (not ours)", yard.user(SHE)["name"]["familyName"], "Sund")
    report.equal("crew office (not ours)", office.user(SHE)["name"]["familyName"], "Sund")
    report.equal("reporting database", _mark(play, SHE), "Alma Sund, Boat planner, Oxhaven")
    report.equal("ship mail", _mailbox(play, SHE)[0], "Alma Sund")


def _boss(play: Play) -> None:
    report, client = play.report, play.client
    report.section(
        "Her manager leaves: she gets the manager's manager, in the directory and in mail"
    )
    boss, next_one = _boss_of(play, "Head of Timetables"), _boss_of(play, "Managing director")
    batch = play.plan(Verb.LEAVER, boss)
    text = " ".join(c.text for c in batch.plans[0].cautions)
    report.check("the plan says so", "From then on to" in text, text)
    left = play.confirm(batch)
    wanted = f"uid={next_one},"
    play.until(lambda: wanted in _entry(play, SHE).get("manager", ""))
    report.check("directory", wanted in _entry(play, SHE).get("manager", ""), _entry(play, SHE))
    theirs = _mail(play, next_one)["id"]
    play.until(lambda: _work(_mail(play, SHE)).get("manager", {}).get("value") == theirs)
    report.equal("mail and calendar", _work(_mail(play, SHE))["manager"]["value"], theirs)
    undone = play.confirm(client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=left.number)))
    report.check("the leaving is undone", undone.outcome in ("done", "partly done"), undone.outcome)
    wanted = f"uid={boss},"
    play.until(lambda: wanted in _entry(play, SHE).get("manager", ""))
    report.check(
        "and she has him again", wanted in _entry(play, SHE).get("manager", ""), _entry(play, SHE)
    )


def _level(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A level in ticket sales for a time, by hand")
    clerk = play.organisation.of("Ticketing", "Ticket clerk").user_name
    report.equal("she is at the counter", _ticket_level(play, clerk), "counter")
    _ticket_decision(play, clerk, "roles", "supervisor", "+2d")
    play.confirm(play.plan(Verb.RECHECK, clerk))
    report.equal("supervisor with the next look", _ticket_level(play, clerk), "supervisor")
    advance(client, "+3d")
    play.until(lambda: _ticket_level(play, clerk) == "counter")
    report.equal("and back at the counter when it ends", _ticket_level(play, clerk), "counter")
    _further_quays(play, clerk)
    _head_office(play, clerk)


def _ticket_decision(play: Play, who: str, item: str, value: str, ends: str = "") -> None:
    said = wde.DecisionPayload(application=TICKETS, kind="setting", item=item, value=value)
    play.client.decisions.make(
        wde.NewDecision(who=who, kind="grant", payload=said, ends=ends, reason="the festival")
    )


def _further_quays(play: Play, clerk: str) -> None:
    report = play.report
    report.section("A further quay to sell for, for a day; and one that there is not")
    own = play.organisation.of("Ticketing", "Ticket clerk").site
    other = next(s for s in SITES if s != own)
    _ticket_decision(play, clerk, "quays", other, "+1d")
    play.confirm(play.plan(Verb.RECHECK, clerk))
    both = ", ".join(sorted((own, other)))
    report.equal("it comes to her own", _ticket(play, clerk)["quays"], both)
    advance(play.client, "+2d")
    play.until(lambda: _ticket(play, clerk)["quays"] == own)
    report.equal("and goes when its time is over", _ticket(play, clerk)["quays"], own)
    text = refused(lambda: _ticket_decision(play, clerk, "quays", "Atlantis"))
    report.check("a quay that is none is refused", "offers no quays 'Atlantis'" in text, text)


def _head_office(play: Play, clerk: str) -> None:
    report, client = play.report, play.client
    report.section("An administrator's level: agreed to first; the last one does not just go")
    _ticket_decision(play, clerk, "roles", "head office")
    number = client.plans.confirm(play.plan(Verb.RECHECK, clerk))[0].number
    report.equal("nothing happens before a yes", _ticket_level(play, clerk), "counter")
    boss = next(p.mail for p in play.organisation.people if p.title == "Head of Ticketing")
    token = play.post.wait(boss, "Your approval")["text"].split("/a#")[1].split()[0]
    client.approvals.by_link(token, agrees=True)
    list(client.dockets.follow(number))
    report.equal("head office once her manager agreed", _ticket_level(play, clerk), "head office")
    batch = play.plan(Verb.LEAVER, clerk)
    codes = [c.code for c in batch.plans[0].cautions if c.blocks == "override"]
    report.equal("as the last administrator", codes, ["guard:last-administrator"])
    text = refused(lambda: client.plans.confirm(batch))
    report.check("she does not leave without a word", "last administrator" in text, text)


def _ticket_level(play: Play, who: str) -> str:
    return _ticket(play, who)["roles"]


def _ticket(play: Play, who: str) -> dict[str, str]:
    """What the application itself says of somebody's level and quays."""
    other = play.organisation.others[TICKETS]
    with httpx.Client(headers=other["headers"], timeout=20) as wire:
        reply = wire.get(f"{other['url']}/scim/v2/Users", params={"filter": f'userName eq "{who}"'})
    user = reply.json()["Resources"][0]
    level = next((str(r["value"]) for r in user.get("roles", ())), "")
    return {"roles": level, "quays": user[ACCOUNT]["settings"]["quays"]}


def _groups(play: Play) -> None:
    report, client = play.report, play.client
    report.section("A group made, changed, retired and brought back, in SCIM and in the directory")
    owner = play.organisation.of("Timetables", "Timetable planner", skip=1).user_name
    heir = play.organisation.of("Timetables", "Timetable planner", skip=2).user_name
    for application in (CREW, DIRECTORY):
        name = "Lamp watch"
        plan = group_plan(application, name, {"owner": owner, "description": "Lamps"}, new=True)
        play.confirm(client.plans.make(plan))
        report.check(
            f"{application} has it, as {owner}'s", owner in _owner(play, application, name)
        )
        play.confirm(client.plans.make(group_plan(application, name, {"owner": heir})))
        report.check("then it is somebody else's", heir in _owner(play, application, name))
        row = next(r for r in client.groups.all(application=application, q=name))
        for action, there in (("delete", "retired"), ("restore", heir)):
            quick = wl.NewPlan(verb=Verb.ACCOUNT, action=action, accounts=[row.id])
            play.confirm(client.plans.make(quick))
            seen = _owner(play, application, name)
            report.check(f"after {action} it is {there}", there in seen, seen)
    docket = play.confirm(play.plan(Verb.LEAVER, heir, successor=owner))
    both = [_owner(play, a, "Lamp watch") for a in (CREW, DIRECTORY)]
    report.check("its owner leaves: both are the successor's", all(owner in b for b in both), both)
    play.confirm(client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=docket.number)))
    both = [_owner(play, a, "Lamp watch") for a in (CREW, DIRECTORY)]
    report.check("undone, they are hers again", all(heir in b for b in both), both)


def _owner(play: Play, application: str, name: str) -> str:
    """Whose a group is, asked of the application itself; ``retired`` where it is that."""
    if application == DIRECTORY:
        with play.stage.directories[0].client().connect(timeout=5) as connection:
            found = connection.search(
                BASE, bonsai.LDAPSearchScope.SUB, f"(&(objectClass=groupOfNames)(cn={name}))"
            )
        return "retired" if ",ou=leavers," in str(found[0].dn) else str(found[0]["owner"][0])
    reach = play.organisation.crew
    with httpx.Client(headers=reach["headers"], timeout=20) as wire:
        params = {"filter": f'displayName eq "{name}"'}
        reply = wire.get(f"{reach['url']}/scim/v2/Groups", params=params)
        more = reply.json()["Resources"][0][OWN_GROUP]
        whose = wire.get(f"{reach['url']}/scim/v2/Users/{more['owner']['value']}").json()
    return "retired" if more.get("retiredUntil") else str(whose["userName"])


def _too_long(play: Play) -> None:
    play.report.section("A title that mail and calendar does not take is said at planning")
    long = "Boat planner of the northern and southern islands"
    batch = play.plan(Verb.MOVER, SHE, changes={"title": long})
    cautions = [c.text for c in batch.plans[0].cautions if c.code == "does-not-fit"]
    play.report.check(
        "said, with both lengths", "at most 40 characters" in " ".join(cautions), cautions
    )
    steps = {(s.application_id, s.item) for s in batch.plans[0].steps}
    play.report.check("not tried there", (MAIL, "title") not in steps, steps)
    play.report.check("done in the directory all the same", (DIRECTORY, "title") in steps, steps)


def _outside(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Changed outside: the phone is taken over from the directory")
    directory = play.stage.directories[0]
    with directory.client().connect(timeout=5) as connection:
        dn = play.directory.entry(SHE)["dn"][0]
        entry = bonsai.LDAPEntry(dn, connection)
        entry.change_attribute("telephoneNumber", bonsai.LDAPModOp.REPLACE, OTHER_PHONE)  # type: ignore[arg-type]
        entry.modify()
    client.applications.read(DIRECTORY)
    report.equal("hers here", client.people.show(SHE).phone, OTHER_PHONE)
    play.until(lambda: _mail(play, SHE)["phoneNumbers"][0]["value"] == OTHER_PHONE)
    report.equal(
        "and in mail and calendar", _mail(play, SHE)["phoneNumbers"][0]["value"], OTHER_PHONE
    )

    report.section(
        "A title changed in mail and calendar is put back, three times a day; then it is asked"
    )
    other = play.organisation.others[MAIL]
    for number in range(1, 5):
        with httpx.Client(headers=other["headers"], timeout=20) as wire:
            user = _mail(play, SHE)["id"]
            body = {
                "schemas": ["urn:ietf:params:scim:api:messages:2.0:PatchOp"],
                "Operations": [{"op": "replace", "path": "title", "value": f"Skipper {number}"}],
            }
            wire.patch(f"{other['url']}/scim/v2/Users/{user}", json=body).raise_for_status()
        client.applications.read(MAIL)
        wanted = "Boat planner" if number < 4 else "Skipper 4"
        play.until(lambda wanted=wanted: _mail(play, SHE)["title"] == wanted)  # type: ignore[misc]
        report.equal(f"the {number}. time", _mail(play, SHE)["title"], wanted)
    rows = [r for r in client.findings.outside(state=DeviationState.OPEN)
            if r.kind is DeviationKind.ATTRIBUTE]  # fmt: skip
    report.equal(
        "one question is open", [(r.item, r.now_is) for r in rows], [("title", "Skipper 4")]
    )
    client.findings.revert(rows[0].id)
    play.until(lambda: _mail(play, SHE)["title"] != "Skipper 4")
    report.equal("decided: put back", _mail(play, SHE)["title"], "Boat planner")


def _sensitive(play: Play, yard: Outside, office: Outside) -> None:
    report = play.report
    report.section("A sensitive rename leaves no trace of the former name in any account")
    changes = {
        "given_name": "Alvar",
        "family_name": "Berg",
        "user_name": "aberg9",
        "mail": "aberg9@morrowsound.example",
    }
    batch = play.plan(Verb.RENAME, SHE, changes=changes, sensitive=True, until="+10d")
    told = [c.text for c in batch.plans[0].cautions if c.code == "old-mail"]
    report.check("the plan says what becomes of mail", "arrives unseen until" in told[0], told)
    docket = play.confirm(batch)
    report.equal("the docket is done", docket.outcome, "done")
    now = "aberg9"
    shown: dict[str, Any] = {
        "crew rosters, kept nowhere in step": play.crew.user(now),
        "directory": _entry(play, now),
        "mail and calendar": _mail(play, now),
        "ship mail": _mailbox(play, now),
        "reporting database": _mark(play, now),
        "boat yard (not ours)": yard.user(now),
        "crew office (not ours)": office.user(now),
    }
    for name, account in shown.items():
        text = repr(account).casefold()
        traces = [old for old in ("alma", "sund,", "'sund'", SHE) if old in text]
        report.check(f"{name}: none", bool(account) and not traces, account)
    store = play.stage.mail_stores[0]
    store.send(SHE, OUTSIDE, "To the old address")
    report.equal("mail to the old address arrives", store.subjects(now), ["To the old address"])
    advance(play.client, "+11d")
    play.until(lambda: not takes(store, SHE))
    report.check("and bounces when its time is over", not takes(store, SHE))
