"""The proof ``handover``: nothing is left ownerless, nothing keeps naming somebody who is gone."""

from __future__ import annotations

import sqlite3
from datetime import timedelta
from pathlib import Path
from typing import Any

import bonsai
import httpx
import psycopg
from psycopg import sql

from tests.proofs import meeting, programs
from tests.proofs.joiner import rules_text
from tests.proofs.leaver import refused
from tests.proofs.meeting import TITLE
from tests.proofs.play import Play
from yugum.client.groups import group_plan
from yugum.core.actions import Action
from yugum.core.verbs import Quick, Verb
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire.handover import ChooseHandover
from yugum_standins.directory import BASE
from yugum_standins.load import advance, do
from yugum_standins.morrow import CREW, DIRECTORY, REPORTING, SHIP_MAIL

OWNER, BOSS, TOP, MATE, KEEPER = "vsolbakk", "hsolbakk", "tsolbakk", "msolbakk", "ksolbakk"
ASKING = "nsolbakk"
GROUP = "Tide tables"
DATABASES = ("timetables", "finance")


def handover(play: Play) -> None:
    _people(play)
    _world(play)
    _rules(play)
    _shown(play)
    _choices(play)
    before = _state(play)
    new = programs.beside(play, OWNER, TOP)
    number = _leaves(play, before)
    programs.after(play, TOP, new)
    _undone(play, number, before)
    _unfit(play)
    _left_over(play)
    _deleted(play)
    _traces(play)
    _agreed(play)


def _people(play: Play) -> None:
    play.report.section(
        "Vera Solbakk leaves Timetables; her manager Hild has left, Hild's manager is Tora"
    )
    names = {TOP: "Tora", BOSS: "Hild", OWNER: "Vera", MATE: "Mads", KEEPER: "Kari"}
    managers = {BOSS: TOP, OWNER: BOSS, MATE: TOP}
    for login, given in names.items():
        _joined(play, login, given, managers.get(login, ""))
    # Else whoever reported to Hild would report to Tora by now, and there were no chain.
    text = rules_text(procedures={"leaver": {"reports_to": "-"}})
    play.client.rules.adopt(text, "managers stay as they are", take_away=10_000)
    do(play.client, Verb.LEAVER, BOSS, urgent=True)


def _joined(play: Play, login: str, given: str, manager: str) -> None:
    new = wp.NewPerson(
        user_name=login,
        given_name=given,
        family_name="Solbakk",
        department="Timetables",
        title=TITLE,
        mail=f"{login}@morrowsound.example",
        manager=manager,
    )
    play.client.people.create([new])
    do(play.client, Verb.JOINER, login)


def _put(play: Play, path: str, **said: Any) -> str:
    crew = play.crew
    reply = httpx.post(f"{crew.url}/panel/{path}", json=said, headers=dict(crew.headers))
    return str(reply.raise_for_status().json()["id"])


def _text(play: Play, key: str) -> str:
    return str(play.crew._get(f"/scim/v2/Settings/{key}").json()["text"])


PLACES = {
    "alert": f"{OWNER}@morrowsound.example, bridge@morrowsound.example",
    "schedule": f"Mondays at 6 to {OWNER}@morrowsound.example.",
    "escalation": f"{MATE}; {OWNER}",
    "sign": f"Questions: Vera Solbakk, {OWNER}@morrowsound.example",
}


def _world(play: Play) -> None:
    play.report.section("What she owns, and where she is named")
    for kind, names in {
        "scheduled job": ["Night tide import", "Week plan"],
        "saved search": ["Late boats", "Spare berths"],
        "board": ["Tide board"],
        "template": ["Watch sheet"],
    }.items():
        for name in names:
            _put(play, "items", userName=OWNER, kind=kind, name=name)
    who = sql.Identifier(OWNER)
    for database in DATABASES:
        with psycopg.connect(play.reporting.as_user(None, database), autocommit=True) as c:
            c.execute("CREATE TABLE public.solbakk_tides (n int)")
            c.execute(sql.SQL("ALTER TABLE public.solbakk_tides OWNER TO {}").format(who))
            ahead = sql.SQL("ALTER DEFAULT PRIVILEGES FOR ROLE {} ").format(who)
            c.execute(ahead + sql.SQL("GRANT SELECT ON TABLES TO timetable_reports"))
    for kind, text in PLACES.items():
        effect = f"the {kind} reaches nobody"
        more = {"place": f"Tides › {kind}", "text": text, "effect": effect}
        _put(play, "settings", id=f"tides-{kind}", kind=kind, writable=kind != "sign", **more)
    programs.there(play, OWNER)
    meeting.meets(play, OWNER, MATE)
    plan = play.client.plans.make(group_plan(DIRECTORY, GROUP, {"owner": OWNER}, new=True))
    play.follow(play.client.plans.confirm(plan))
    _pointing(play, OWNER)
    owned = {(r.thing, r.application_id): r.count for r in play.client.handover.show(OWNER).rows}
    play.report.equal(
        "looked at now in every application, kind by kind",
        owned,
        {
            ("scheduled job", CREW): 2,
            ("saved search", CREW): 2,
            ("board", CREW): 1,
            ("template", CREW): 1,
            ("mailbox", SHIP_MAIL): 1,
            ("calendar", SHIP_MAIL): 2,
            ("meeting", SHIP_MAIL): 2,
            ("table", REPORTING): 2,
            ("default privilege", REPORTING): 2,
            ("group", DIRECTORY): 1,
        },
    )


def _pointing(play: Play, *logins: str) -> set[str]:
    """Whom the directory says to ask about the group; with logins these from then on."""
    with play.stage.directories[0].client().connect(timeout=5) as connection:
        condition = f"(&(objectClass=groupOfNames)(cn={GROUP}))"
        (found,) = connection.search(BASE, bonsai.LDAPSearchScope.SUB, condition)
        if logins:
            found["seeAlso"] = [f"uid={login},ou=people,{BASE}" for login in logins]
            found.modify()
        return {str(dn).split(",")[0].removeprefix("uid=") for dn in found["seeAlso"]}


def _rules(play: Play) -> None:
    said = {"defaults": [{"thing": "table", "to": MATE}], "custodian": KEEPER}
    wrong = rules_text(handover={**said, "custodian": "ksolbak"})
    found = [p.message for p in play.client.rules.check(wrong)]
    play.report.check(
        "a custodian who is nobody is refused in the rules", "is nobody" in str(found), found
    )
    play.client.rules.adopt(rules_text(handover=said), "who takes over", take_away=10_000)


def _shown(play: Play) -> None:
    rows = {r.thing: r for r in play.client.handover.show(OWNER).rows}
    report = play.report
    report.equal(
        "the chain goes past Hild, who has left, to Tora; tables go to Mads by the rules",
        {(t, r.to_name, str(r.ground)) for t, r in rows.items()},
        {(t, "Tora Solbakk", "chain") for t in rows.keys() - {"table"}}
        | {("table", "Mads Solbakk", "rules")},
    )
    places = play.client.handover.references(OWNER)
    report.equal(
        "places that name her, with what can be written and what only by hand",
        {r.thing: str(r.how) for r in places.rows},
        {
            "alert": "leaving",
            "schedule": "leaving",
            "escalation": "leaving",
            "sign": "by-hand",
            "key": "leaving",
            "seeAlso": "leaving",
        },
    )
    told = next(r for r in places.rows if r.thing == "sign")
    report.equal(
        "and the text to copy", told.after, "Questions: Tora Solbakk, tsolbakk@morrowsound.example"
    )


def _choose(play: Play, **said: Any) -> None:
    play.client.handover.choose(OWNER, ChooseHandover(reason="settled", **said))


def _choices(play: Play) -> None:
    report = play.report
    report.section("Choices: her jobs go to Mads, the board goes with the account, typed")
    _choose(play, thing="scheduled job", to=MATE)
    untyped = refused(lambda: _choose(play, thing="board", goes=True))
    report.check("what goes is typed", "Type the login" in untyped, untyped)
    _choose(play, thing="board", goes=True, typed=OWNER)
    meeting.copied(play, OWNER, KEEPER)
    now = play.client.clock.show().now
    do(play.client, Verb.LEAVER, MATE, at=str((now + timedelta(days=4)).date()))
    said = refused(lambda: _choose(play, thing="saved search", to=MATE))
    report.check("who leaves within the week is refused, and who could is named", TOP in said, said)
    number = play.client.people.show(MATE).dockets[0].number
    play.client.dockets.cancel(number)


def _owners(play: Play) -> dict[str, str]:
    found = {f"{d} tables": play.reporting.owner(d, "solbakk_tides") for d in DATABASES}
    for login in (OWNER, TOP, MATE, KEEPER):
        if play.crew.user(login):
            names = play.crew.rosters(login) - {"Watch sheet"}
            found |= dict.fromkeys(names, login)
    with play.stage.directories[0].client().connect(timeout=5) as connection:
        condition = f"(&(objectClass=groupOfNames)(cn={GROUP}))"
        (entry,) = connection.search(BASE, bonsai.LDAPSearchScope.SUB, condition)
    found["group"] = str(entry["owner"][0]).split(",")[0].removeprefix("uid=")
    return found


def _state(play: Play) -> dict[str, Any]:
    texts = {kind: _text(play, f"tides-{kind}") for kind in PLACES}
    return {**_owners(play), **texts, "seeAlso": sorted(_pointing(play))}


def _leaves(play: Play, before: dict[str, Any]) -> str:
    report = play.report
    report.section("She leaves: each kind to its heir, each place to who stands there")
    docket = play.confirm(play.plan(Verb.LEAVER, OWNER, urgent=True))
    after = _state(play)
    report.equal("done", str(docket.state), "done")
    report.equal(
        "the applications themselves say so",
        {k: v for k, v in after.items() if v != before[k]},
        {
            "timetables tables": MATE,
            "finance tables": MATE,
            "Night tide import": MATE,
            "Week plan": MATE,
            "Late boats": TOP,
            "Spare berths": TOP,
            "group": TOP,
            "alert": "tsolbakk@morrowsound.example, bridge@morrowsound.example",
            "schedule": "Mondays at 6 to tsolbakk@morrowsound.example.",
            "escalation": f"{MATE}; {TOP}",
            "seeAlso": [TOP],
        },
    )
    meeting.moved(play, OWNER, TOP, MATE)
    kept = [n for n in (OWNER, KEEPER) if "Watch sheet" in play.crew.rosters(n)]
    report.equal(
        "the template is copied for Kari, and Vera's stays with her account", kept, [OWNER, KEEPER]
    )
    for database in DATABASES:
        with psycopg.connect(play.reporting.as_user(None, database), autocommit=True) as c:
            row = c.execute("SELECT pg_get_userbyid(defaclrole) FROM pg_default_acl").fetchall()
        names = {r[0] for r in row}
        report.check(f"default privileges in {database} are Tora's", names == {TOP}, names)
    return docket.number


def _undone(play: Play, number: str, before: dict[str, Any]) -> None:
    play.report.section("Undone, everything is as before; then she leaves again")
    play.confirm(play.client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number)))
    play.report.equal("as before in every application", _state(play), before)
    meeting.back(play, OWNER, MATE)


def _unfit(play: Play) -> None:
    report = play.report
    plan = play.plan(Verb.LEAVER, OWNER, urgent=True)
    do(play.client, Verb.ABSENCE, MATE, until="+60d")
    play.confirm(plan)
    now = _owners(play)
    report.equal(
        "Mads is away when it runs: his kinds stop, the others go",
        (now["Night tide import"], now["Late boats"]),
        (OWNER, TOP),
    )
    row = next(r for r in play.client.handover.show(OWNER).rows if r.thing == "scheduled job")
    report.check(
        "and it is said who could, and when the custodian takes it",
        "could" in row.text and "else Kari" in row.text,
        row.text,
    )


def _deletes(play: Play) -> bool:
    account = play.account(OWNER, CREW)
    new = wl.NewPlan(verb=Verb.ACCOUNT, accounts=[account.id], action=Quick.DELETE)
    steps = play.client.plans.make(new).plans[0].steps
    return any(s.action is Action.DELETE for s in steps)


def _left_over(play: Play) -> None:
    report, client = play.report, play.client
    report.section("What nobody settled is the custodian's after 30 days")
    report.check("the account is not deleted while anything is open", not _deletes(play))
    board = {r.thing for r in client.handover.all(settled="open") if r.user_name == OWNER}
    report.check("it stands on the board of what is open", "scheduled job" in board, board)
    ended = client.people.show(OWNER).access_ends
    assert ended is not None
    advance(client, (ended + timedelta(days=29)).isoformat())
    report.equal("not before its day", _owners(play)["Week plan"], OWNER)
    advance(client, (ended + timedelta(days=30, hours=1)).isoformat())
    play.until(lambda: _owners(play).get("Week plan") == KEEPER)
    report.equal("on its day", _owners(play)["Week plan"], KEEPER)


def _deleted(play: Play) -> None:
    report = play.report
    state = str(play.account(OWNER, CREW).state)
    report.equal("and with everything settled the account goes on its day", state, "deleted")
    advance(play.client, (play.client.clock.show().now + timedelta(days=61)).isoformat())
    report.equal("and for good when its window is over", play.reporting.role(OWNER), None)


def _traces(play: Play) -> None:
    play.report.section("A plain search of what the applications have written down")
    for database in DATABASES:
        with psycopg.connect(play.reporting.as_user(None, database), autocommit=True) as c:
            rows = c.execute(
                "SELECT 1 FROM pg_class WHERE relacl::text LIKE %s OR pg_get_userbyid(relowner) = %s"
                " UNION ALL SELECT 1 FROM pg_default_acl WHERE defaclacl::text LIKE %s",
                (f"%{OWNER}%", OWNER, f"%{OWNER}%"),
            ).fetchall()
        play.report.equal(f"{database} names her nowhere", rows, [])
    with play.stage.directories[0].client().connect(timeout=5) as connection:
        entries = connection.search(BASE, bonsai.LDAPSearchScope.SUB, "(objectClass=*)")
    named = {
        str(e.dn) for e in entries if OWNER in str(dict(e)) and f"uid={OWNER}," not in str(e.dn)
    }
    play.report.equal("no entry of the directory but her own names her", named, set())
    ended = play.client.people.show(OWNER).access_ends
    assert ended is not None
    meeting.traces(play, OWNER, ended, TOP)
    path = Path(play.stage.folder) / f"{CREW}.sqlite"
    with sqlite3.connect(path) as store:
        found = [
            (kind, bytes(body).decode())
            for kind, body in store.execute("SELECT kind, body FROM docs WHERE kind <> 'log'")
            if OWNER in bytes(body).decode()
        ]
    kinds = sorted({k for k, _ in found})
    play.report.equal(
        "the crew rosters name her only where it is written by hand", kinds, ["settings"]
    )
    left = [f.text for f in play.client.findings.all(kind="still-named") if f.login == OWNER]
    play.report.equal(
        "which stands as a finding", left, ["has left and is named still: Tides › sign"]
    )


def _agreed(play: Play) -> None:
    report, client = play.report, play.client
    report.section("Where the rules ask for it, nobody takes over before they have agreed")
    _joined(play, ASKING, "Nina", TOP)
    for kind, name in (("scheduled job", "Moon table"), ("saved search", "Quiet berths")):
        _put(play, "items", userName=ASKING, kind=kind, name=name)
    with psycopg.connect(play.reporting.as_user(None, DATABASES[0]), autocommit=True) as c:
        c.execute("CREATE TABLE public.solbakk_logs (n int)")
        c.execute(f"GRANT SELECT ON public.solbakk_logs TO {ASKING} WITH GRANT OPTION")
        c.execute(f"SET ROLE {ASKING}")
        c.execute("GRANT SELECT ON public.solbakk_logs TO timetable_reports")
    rules = {"ask": {"days": 3, "remind_days": 1}}
    client.rules.adopt(rules_text(handover=rules), "they agree first", take_away=10_000)
    number = play.confirm(play.plan(Verb.LEAVER, ASKING, urgent=True)).number
    report.equal("cut off at once, and all is hers still", _jobs(play, ASKING), ASKING)
    first = _asked(play, TOP)
    kinds = {q["thing"] for q in first["questions"]}
    report.equal(
        "Tora is asked by mail, kind by kind",
        kinds,
        {"scheduled job", "saved search", "grant", "mailbox"},
    )
    _answer(play, first, "scheduled job", answer="passed-on", to=KEEPER)
    second = _asked(play, KEEPER)
    kinds = {q["thing"] for q in second["questions"] if q["answer"] == "open"}
    report.equal("passed on, Kari is asked in turn", kinds, {"scheduled job"})
    report.equal("and until she agrees it is Nina's", _jobs(play, ASKING), ASKING)
    _answer(play, second, "scheduled job", answer="accepted")
    play.until(lambda: "Moon table" in play.crew.rosters(KEEPER))
    report.check(
        "she agrees: the crew rosters show it as hers", "Moon table" in play.crew.rosters(KEEPER)
    )
    _answer(play, first, "grant", answer="accepted")
    play.until(lambda: _giver(play) == TOP)
    report.equal("what Nina's role gave others is given by Tora's now", _giver(play), TOP)
    _answer(play, first, "saved search", answer="declined", note="nobody needs it")
    row = next(r for r in client.handover.show(ASKING).rows if r.thing == "saved search")
    report.check("declined, it is open and says why", "nobody needs it" in row.text, row.text)
    play.confirm(client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number)))
    report.equal(
        "undone, what went by later dockets is back as well",
        (_jobs(play, ASKING), _giver(play)),
        (ASKING, ASKING),
    )
    asked = [r for r in client.handover.asked() if r.user_name == ASKING]
    report.equal("and nobody is asked any more", asked, [])


def _jobs(play: Play, login: str) -> str:
    return login if "Moon table" in play.crew.rosters(login) else ""


def _giver(play: Play) -> str:
    """By whose grant the reports read the table, as the database has it."""
    query = """SELECT pg_get_userbyid(a.grantor) FROM pg_class c, aclexplode(c.relacl) a
      WHERE c.relname = 'solbakk_logs' AND pg_get_userbyid(a.grantee) = 'timetable_reports'"""
    with psycopg.connect(play.reporting.as_user(None, DATABASES[0])) as connection:
        return ", ".join(str(r[0]) for r in connection.execute(query).fetchall())


def _asked(play: Play, login: str) -> dict[str, Any]:
    """What the link of somebody's mail asks, and the link."""
    mail = play.post.wait(f"{login}@", "Do you take over")["text"]
    token = mail.split("/t#")[1].split()[0]
    reply = httpx.post(f"{play.stage.url}/api/v1/takeover-links/open", json={"token": token})
    return {**reply.raise_for_status().json(), "token": token}


def _answer(play: Play, asked: dict[str, Any], thing: str, **said: str) -> None:
    (one,) = [q for q in asked["questions"] if q["thing"] == thing and q["answer"] == "open"]
    body = {"token": asked["token"], "id": one["id"], **said}
    url = f"{play.stage.url}/api/v1/takeover-links/answer"
    httpx.post(url, json=body).raise_for_status()
