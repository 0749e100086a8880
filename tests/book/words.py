"""Pages about words: actions, tasks, records, mails, findings, guards, names, dates."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from functools import partial
from itertools import product
from typing import Any

from tests.book import show
from tests.book.scene import (
    APPLICATIONS,
    LEAVING,
    MARA,
    NOW,
    OWN,
    PEOPLE,
    RULES,
    SERVICE,
    STATES,
    account,
    decision,
    everywhere,
    subject,
    with_app,
    world,
)
from tests.book.show import Lines, told, tried
from tests.builders import made_docket, made_step
from yugum.core.accounts import MOVES, AccountKind, AccountState, Asset, Observed
from yugum.core.actions import PHASE_ORDER, Action, Arguments, Facet, describe
from yugum.core.actions.registry import ACTIONS, COMING_ALONG, is_fulfilled, observed_facet
from yugum.core.applications import (
    Capability,
    Deletion,
    ProfileChange,
    effective_deletion,
    with_profile,
)
from yugum.core.approvals import afterwards, for_good, needing
from yugum.core.coming import coming, future
from yugum.core.conditions import (
    And,
    Compare,
    Not,
    Op,
    Or,
    Present,
    attributes_of,
    compared_in,
    fold,
    matches,
)
from yugum.core.dates import is_zone, parse_day, parse_moment
from yugum.core.decisions import DecisionKind, Origin, OriginKind, Right, in_force
from yugum.core.desired import Subject, World, desired, filled_in
from yugum.core.deviations import Deviation, DeviationKind, deviations
from yugum.core.dockets import Outcome, Receipt, Step, StepProblem, StepState, is_stuck
from yugum.core.facts import Fields, difference, fields_of, taken_back, with_fields
from yugum.core.findings import Finding, FindingKind
from yugum.core.guards import Namesake, Surroundings, guard_leaver
from yugum.core.lifeline import Bar, Change, past
from yugum.core.mails import approval_mail, credential_mail, filled, term_mail
from yugum.core.matching import Candidate, Candidates, keys_of
from yugum.core.merkle import (
    Frontier,
    append,
    canonical,
    leaf_hash,
    payload_digest,
    root,
    root_of,
    size_of,
)
from yugum.core.names import Limits, NameKind, NameRules, Taken, TakenLogin, suggest
from yugum.core.nesting import held_through
from yugum.core.obligations import owed
from yugum.core.offsets import WorkingHours, parse_days, parse_offset
from yugum.core.operators import RANK
from yugum.core.passwords import CharacterClass, make, shortcomings
from yugum.core.people import (
    Person,
    as_text,
    folded,
    full_name,
    search_text,
    start_moment,
    state_at,
    term_end,
    with_names,
)
from yugum.core.planning import plan_subject
from yugum.core.procedures import later_steps, ready_steps
from yugum.core.projection import project
from yugum.core.quick import plan_quick
from yugum.core.readiness import CredentialState, readiness
from yugum.core.readings import ReadingCounts
from yugum.core.records import WayIn, as_csv, csv_cell, lines_of
from yugum.core.roles import Guard, GuardForce, Precedence, Procedure, amount, merged
from yugum.core.seats import Pool
from yugum.core.tasks import after_task, instructions
from yugum.core.veils import Veil, former_names
from yugum.core.verbs import Quick, Verb
from yugum.core.windows import can_come_back, close_due, recoverable_until, setting_ends
from yugum.core.wording import plural
from yugum.pages import record_page, sheet_page

S = AccountState
SEEN = Observed(
    external_id="x1",
    login="mquill",
    state=S.ACTIVE,
    entitlements=frozenset({"deck"}),
    seats=frozenset({"planner"}),
    sessions=2,
    keys=1,
    devices=3,
    assets=(Asset("roster", "r1", "Easter"), Asset("note", "n1", "Berths")),
    settings={"deck": "9 GB", "quota": "1 GB"},
    display_name="Mara Quill",
    employee_number="40123",
)


def actions() -> Lines:
    """What is said of each action, and when it is fulfilled."""
    yield told(PHASE_ORDER)
    for action, spec in ACTIONS.items():
        w = spec.words
        yield f"# {action.value}: {spec.phase.value}, {spec.settle.value}"
        yield f"  {w.past}, {w.does}, {w.counted[0]}/{w.counted[1]} {w.counted_past}, {w.task!r}"
        after = "everything" if len(spec.needs.after) == len(Action) else told(spec.needs.after)
        yield f"  needs {told(spec.needs.capability)} after {after}"
        flags = (
            "irreversible barred_by_hold adds takes gives lists_assets readable told_until seats"
        )
        said = [f"{f}={getattr(spec, f)!r}" for f in flags.split()]
        yield f"  {' '.join(said)} first={w.first!r}"
        yield f"  with {told([c.action for c in COMING_ALONG[action]])}"
        for item, arguments in (
            ("deck", Arguments(value="9 GB", run="9 GB")),
            ("planner", Arguments(run="2", back=True)),
            ("roster", Arguments(only=("r2",))),
            ("roster", Arguments(only=("r1",))),
            ("mquill", Arguments()),
        ):
            seen = [SEEN, *(replace(SEEN, state=s, sessions=0, keys=0) for s in STATES), None]
            seen += [replace(SEEN, devices=0, assets=None, seats=None, keys=0)]
            now = "".join("y" if is_fulfilled(action, item, s, arguments) else "n" for s in seen)
            yield f"  {item} {told(arguments)}: {now}"
        for item in ("deck", "planner", "roster"):
            for one in (SEEN, replace(SEEN, sessions=0), replace(SEEN, sessions=0, keys=0), None):
                yield f"  {item} shows {told(observed_facet(action, item, one))}"
        step = Step(
            id="s1",
            docket_id="d1",
            subject_id="p1",
            position=1,
            application_id="crew",
            account_id="a1",
            phase=spec.phase,
            action=action,
            item="deck",
            arguments=Arguments(value="9 GB"),
            origin=Origin(OriginKind.ROLE, "Deck"),
            state=StepState.DUE,
        )
        for mine in (step, replace(step, arguments=Arguments()), replace(step, origin=None)):
            yield f"  ledger {told(spec.origins(mine))}"


def facets() -> Lines:
    """What receipts show, in words and as they are kept."""
    shown = [
        Facet(),
        Facet(account="active"),
        Facet(account="active", sessions=2, keys=0),
        Facet(account="active", sessions=0, keys=1, back_until="2031-04-01"),
        Facet(entitlement="deck", held=True),
        Facet(seat="planner", held=False),
        Facet(login=""),
        Facet(login="mara"),
        Facet(step="badge", run="r1"),
        Facet(step="badge", run=""),
        Facet(setting="quota", value="9 GB"),
        Facet(setting="quota", value=""),
        Facet(kind="roster", owned=3),
        Facet(devices=1),
        Facet(devices=0),
    ]
    for facet in shown:
        yield f"{bool(facet)} {told(facet.document())}: {facet.told()}"
    yield describe(shown[2], Facet(account="suspended"))
    for count in (0, 1, 2):
        yield f"{plural(count, 'seat')}, {plural(count, 'kind', 'kinds')}"


def tasks() -> Lines:
    """What the owner of an application without interface is asked, and what it makes of the book."""
    arguments = Arguments(
        login="mquill",
        display_name="Mara Quill",
        employee_number="40123",
        until="2031-04-30T08:00:00+00:00",
        to_name="Signe Varga",
    )
    for action in Action:
        for closed in (False, True):
            said = replace(arguments, closed=closed)
            yield instructions(action, "" if closed else "mara", "VHF", said, "Radio")
            for before in (None, SEEN):
                made = after_task(before, action, "VHF", said, "m-1", "acc")
                yield f"  {told(made) if made != before else 'as before'}"


def lives() -> Lines:
    """Lifelines: what was, what will be, in bars and sentences; and what is owed when."""
    for name, who in PEOPLE.items():
        for have in (None, *(account("crew", s) for s in STATES)):
            yield f"# {name}, {have.state.value if have else 'no account'}"
            lanes = []
            for app in (APPLICATIONS[0], APPLICATIONS[2]):
                own = have if have is not None and app.id == "crew" else None
                bars = future(subject(who, *([own] if own else [])), world(), app, own, NOW)
                lanes.append((app, bars))
                yield f"  {app.id}: " + "; ".join(_bar(b) for b in bars)
            one = subject(who, *([have] if have else []))
            for line in coming(one, world(), lanes, (), NOW):
                yield f"  {told(line.at)}: {line.text}, {line.because}"
    ends = account("crew", S.DELETED, recoverable_until=None)
    over = account("crew", S.DELETED, recoverable_until=NOW - timedelta(1))
    for have in (ends, over):
        bars = future(subject(MARA, have), world(), APPLICATIONS[0], have, NOW)
        yield "; ".join(_bar(b) for b in bars)
    never = replace(MARA, starts=date(2031, 5, 1), access_ends=NOW)
    yield told(future(subject(never), world(), APPLICATIONS[0], None, NOW))
    both = [(APPLICATIONS[0], _archived()), (APPLICATIONS[1], _archived())]
    yield told(coming(subject(), world(), both, (), NOW))
    history = [
        Change(NOW - timedelta(9), S.ACTIVE),
        Change(NOW - timedelta(2), S.SUSPENDED),
        Change(NOW - timedelta(2), S.ARCHIVED),
        Change(NOW, S.PURGED),
        Change(NOW + timedelta(1), S.ACTIVE),
    ]
    for count in range(len(history) + 1):
        yield "; ".join(_bar(b) for b in past(list(reversed(history[:count])), NOW))


def _archived() -> list[Bar]:
    later = NOW + timedelta(3)
    return [Bar(S.ACTIVE, NOW, later, planned=True), Bar(S.ARCHIVED, later, None, planned=True)]


def _bar(bar: Bar) -> str:
    until = bar.until.isoformat() if bar.until else "on"
    return f"{bar.state.value} {bar.start.isoformat()}–{until}{' planned' if bar.planned else ''}"


LONG_AGO = NOW - timedelta(90)


def obligations() -> Lines:
    """What falls due later, by who somebody is and how the accounts stand."""
    hold = decision(DecisionKind.HOLD)
    ends = replace(hold, ends=NOW + timedelta(40))
    soon = replace(hold, id="d2", ends=NOW + timedelta(2), starts=NOW - timedelta(1))
    past_it = account("crew", S.DELETED, recoverable_until=NOW)
    for name, who in PEOPLE.items():
        for state in STATES:
            yield f"# {name}, {state.value}"
            ended = {
                a.id: Right(account_id=a.id, since=LONG_AGO, until=NOW - timedelta(3))
                for a in everywhere(state)
            }
            yield from _owed(subject(who, *everywhere(state), rights=ended))
    left = PEOPLE["left a month ago"]
    for name, whose, known in (
        ("a hold", subject(left, account("crew", S.SUSPENDED), decisions=(hold,)), world()),
        (
            "a hold that ends",
            subject(left, account("crew", S.SUSPENDED), decisions=(ends, soon)),
            world(),
        ),
        ("deleted, a hold", subject(left, account("crew", S.DELETED), decisions=(hold,)), world()),
        ("deleted, over, a hold", subject(left, past_it, decisions=(hold,)), world()),
        (
            "the application's",
            subject(left, account("crew", S.SUSPENDED)),
            world(holds={"crew": (ends,)}),
        ),
        ("no end", subject(left, account("crew", S.DELETED, recoverable_until=None)), world()),
        ("of a service", subject(left, account("crew", kind=SERVICE)), world()),
        (
            "found, of no role",
            subject(PEOPLE["of no role"], account("tickets"), ledger={}),
            world(),
        ),
        ("nowhere", subject(left, account("crew", application_id="gone")), world()),
        ("decided", subject(MARA, decisions=(replace(ends, starts=NOW + timedelta(1)),)), world()),
    ):
        yield f"# {name}"
        yield from _owed(whose, known)
    for at in (-31, -30, -7, -1, 0):
        who = PEOPLE["on a term"]
        assert who.access_ends is not None
        moment = who.access_ends + timedelta(days=at)
        yield f"# reminders {at}"
        for later in (moment, moment - timedelta(seconds=1)):
            yield told([o for o in owed(subject(who), world(), later) if o.kind == "remind"])


def _owed(whose: Subject, known: World | None = None) -> Lines:
    for o in owed(whose, known or world(), NOW):
        yield f"  {o.kind.value} {o.account_id or 'the person'} {o.due.isoformat()}: {o.basis}"


def guards() -> Lines:
    """What speaks against letting somebody go, by what the rules make of it."""
    alike = [
        Namesake(name=f"Mara Quil{n}", employee_number=f"4{n}", department="Deck", site="Ox")
        for n in range(4)
    ]
    around = Surroundings(
        reports={"p1": ["Ada", "Bo", "Cy", "Di"]},
        alike={"p1": alike},
        knows={"p1": ["safe", "radio"]},
    )
    few = Surroundings(
        reports={"p1": ["Ada"]},
        alike={"p1": alike[:1]},
        knows={"p1": ["safe"]},
        others={"crew": 1},
    )
    have = (
        account("crew"),
        account("tickets", kind=SERVICE, login="till"),
        account("reports", S.SUSPENDED, kind=SERVICE),
        account("log", application_id="gone"),
    )
    for name, near in (
        ("much", around),
        ("three", replace(around, reports={"p1": ["Ada", "Bo", "Cy"]}, alike={"p1": alike[:3]})),
        ("little", few),
        ("nothing", Surroundings(others={"crew": 2})),
    ):
        for force in (None, *GuardForce):
            guards = dict.fromkeys(Guard, force) if force else {}
            known = replace(world(), rules=replace(RULES, guards=guards))
            yield f"# {name}, {force or 'as usual'}"
            for caution in guard_leaver(subject(MARA, *have), known, near):
                yield f"  {caution.code} [{caution.blocks}]: {caution.text}"


def approvals() -> Lines:
    """Who must agree to what."""
    for name, who in PEOPLE.items():
        for verb in (Verb.MOVER, Verb.LEAVER, Verb.JOINER):
            plan = plan_subject(subject(who), world(), NOW, verb)
            yield f"{name}, {verb.value}: {told(tuple(needing(verb, plan.steps, RULES)))}"
    gone = account("tickets", S.SUSPENDED)
    purge = plan_quick(subject(MARA, gone), world(), [gone], Quick.PURGE, NOW)
    for verb in Verb:
        yield f"{verb.value}: {told(for_good(verb, purge.steps))} {told(afterwards(verb, RULES))}"
        yield f"  {told(tuple(needing(verb, purge.steps, RULES)))} {told(for_good(verb, ()))}"
    calm = replace(RULES, procedures={Verb.LEAVER: Procedure(approval="people")})
    yield told(afterwards(Verb.LEAVER, calm))


def records() -> Lines:
    """The record of a docket as lines, a file and a page."""
    receipt = Receipt(
        outcome=Outcome.DONE,
        found=Facet(account="active", sessions=2),
        did=None,  # type: ignore[arg-type]
        seen=Facet(account="suspended"),
        at=NOW,
        machine_at=NOW + timedelta(seconds=1),
        took_ms=12.5,
    )
    steps = [
        made_step(receipt=receipt),
        made_step(id="s2", receipt=replace(receipt, outcome=Outcome.ALREADY, seen=Facet())),
        made_step(
            id="s3",
            receipt=replace(receipt, outcome=Outcome.BY_HAND),
            action=Action.GRANT,
            item="=deck",
        ),
        made_step(
            id="s4",
            receipt=None,
            state=StepState.ATTENTION,
            problem=StepProblem(code="x", text="It is <closed>."),
        ),
        made_step(id="s5", receipt=None, state=StepState.LEFT_OUT, problem=None),
        made_step(id="s6", receipt=replace(receipt, found=Facet()), action=Action.END_DEVICES),
    ]
    docket = made_docket(*steps, reason="left", machine_started=NOW)
    lines = lines_of(docket, "MS-0001", "40123", {"a-crew": "mquill"}, ["Bo Krog", "Ada Vik"])
    for line in lines:
        yield told(line)
    yield from as_csv(lines).splitlines()
    yield from record_page("Record <1>", ["Left & gone."], lines).splitlines()
    ways = [
        WayIn(application="Crew", login="m<q>", state="active", ways="2 sessions", contact="Jun")
    ]
    sheet = sheet_page("Sheet", [("Mara & Co", ways), ("Nobody", [])])
    yield from sheet.splitlines()
    for cell in ("", "=1", "+1", "-1", "@x", "\tx", "\rx", "a=1"):
        yield repr(csv_cell(cell))
    yield told(docket.cut_off_ms)
    late = made_step(id="s7", receipt=replace(receipt, machine_at=NOW + timedelta(seconds=2.5)))
    yield told(made_docket(late, steps[0], steps[5], machine_started=NOW).cut_off_ms)
    yield told(made_docket(made_step(receipt=None), machine_started=NOW).cut_off_ms)
    yield told(made_docket(steps[0], machine_started=None).cut_off_ms)
    yield told(made_docket(machine_started=NOW).cut_off_ms)
    for state, problem in product(StepState, (None, StepProblem(code="x", text=""))):
        yield f"{state.value} {'with a problem' if problem else ''}: {is_stuck(state, problem)}"


def sentences() -> Lines:
    """Findings and mails."""
    for kind in FindingKind:
        finding = Finding(
            kind=kind,
            key="k1",
            account_id="a1",
            person_id="p1",
            display_name="Mara Quill",
            login="mquill",
            application_name="Crew",
            since=NOW,
            cost={"EUR": Decimal("12.50")},
            about="90",
            other_login="mquill2",
            deviation=Deviation(DeviationKind.SEAT, "planner", "held", "not held"),
        )
        yield f"{kind.value}: {finding.text}"
    yield replace(finding, kind=FindingKind.OUTSIDE, deviation=None).text
    state = Deviation(DeviationKind.STATE, "", "active", "suspended")
    yield replace(finding, kind=FindingKind.OUTSIDE, deviation=state).text
    for mail in (
        credential_mail("m@x.example", "Bo", "Mara", "Crew", "mquill", 72.0),
        approval_mail("Bo", "bridge", "leaver", "Mara", "ines", "left", "1 account.", "Fri"),
        approval_mail("Bo", "bridge", "leaver", "Mara", "ines", "", "1 account.", "Fri"),
        term_mail("Bo", "Mara", "2031-04-20", "http://x"),
    ):
        yield from "\n".join(mail).splitlines()
    yield filled("{name} of {site}, {else} {name}", {"name": "Mara", "site": "Ox"})
    seen = replace(SEEN, entitlements=frozenset({"b", "a", "c"}), seats=frozenset({"z"}))
    for one in (seen, replace(seen, state=S.SUSPENDED, seats=None)):
        for found in deviations(S.ACTIVE, {"b", "y", "x"}, {"q"}, one):
            yield told(found)


def names() -> Lines:
    """Logins and addresses by patterns, with what was tried before; matching; groups in groups."""
    fields = {
        "given": "Zoë-Ann",
        "family": "O'Neill Ørsted",
        "number": "40123",
        "mail_domain": "x.example",
    }
    rules = NameRules(
        patterns={
            NameKind.LOGIN: ("{site}{given:1}", "{given:1}{family:4}", "{family|given}.{given:2}"),
            NameKind.MAIL: ("{given}.{family}@{mail_domain}", "{number}@{mail_domain}"),
            NameKind.DISPLAY_NAME: ("{title|given} {family}",),
            NameKind.HOME: ("/home/{login}",),
        }
    )
    taken = {
        "zone": "Ada has it",
        "oneillorsted.zo": "gone",
        "zone2": "also",
        "zoeann.oneillorsted@x.example": "Bo",
    }
    for kind in NameKind:
        for limits in (Limits(), Limits(length=4), Limits(alphabet="abcdefghijklmnopqrstuvwxyz")):
            for known in (
                {},
                taken,
                dict.fromkeys([f"zone{n}" for n in range(2, 999)], "x") | taken,
            ):
                found = suggest(kind, rules, fields, known, limits)
                shown = (*found.tried[:5], *found.tried[-2:])
                tried_ = "; ".join(f"{t.name}<{t.pattern} {t.problem}" for t in shown)
                yield f"{kind.value} {limits.length} {len(known)}: {found.name!r} ({len(found.tried)}) {tried_}"
    yield told(suggest(NameKind.LOGIN, NameRules(), {"family": " "}, {}, Limits()))
    signs = NameRules(patterns={NameKind.LOGIN: ("{given}!{family}", "{family}_{given}")})
    yield told(
        suggest(NameKind.LOGIN, signs, fields, {}, Limits(alphabet="abcdefghijklmnopqrstuvwxyz_"))
    )
    yield told(NameRules())
    for by in Taken:
        yield TakenLogin(login="m", by=by, holder="Ada", until=NOW).told()
    candidates = Candidates(
        [
            Candidate(
                id="p1",
                user_name="mquill",
                employee_number="40123",
                outside_mail="m@home.example",
                display_name="Mara Quill",
            ),
            Candidate(
                id="p2",
                user_name="svarga",
                employee_number="",
                outside_mail="",
                display_name="Signe Varga",
            ),
            Candidate(
                id="p3",
                user_name="mara",
                employee_number="7",
                outside_mail="",
                display_name="Mara Quill",
            ),
        ]
    )
    blank = Observed(external_id="x", login="q", state=S.ACTIVE)
    accounts: list[dict[str, Any]] = [
        {"employee_number": "40123"},
        {"login": "MQUILL"},
        {"mail": "M@home.example"},
        {"login": "m@home.example"},
        {"login": "svarga@x.example"},
        {"display_name": "signe varga"},
        {"display_name": "Mara Quill"},
        {"display_name": "Mara Quill", "login": "svarga"},
        {"login": "svarga", "kind": AccountKind.SHARED},
        {},
    ]
    for more in accounts:
        one = replace(blank, **more)
        yield f"{told(keys_of(one))}: {told(candidates.match(one))}"
    nested = {
        "deck": ("all", "ships"),
        "ships": ("fleet",),
        "fleet": ("deck", "all"),
        "all": ("top",),
    }
    for held in (("deck",), ("deck", "ships"), ("all",), ("none",), ()):
        yield f"{held}: {told(held_through(held, nested))}"
    before = replace(
        MARA, user_name="mold", family_name="Old", display_name="Mara Old", given_name="M"
    )
    yield told(former_names(before, MARA))
    veil = Veil({"p1": ["Mara Old", "mold", "a.b"]})
    for text in ("Mara Old was MOLD", "molder Mara Oldest", "a.b axb", ""):
        yield f"{veil.hide(text, 'p1')} | {veil.hide(text, 'p2')}"


def passwords() -> Lines:
    """Passwords made and checked, ranks, pools, falls."""
    every = list(CharacterClass)
    for password in ("Ab 1!", "Abc1!", "abc", "ABC", "1234567", "Mara#Quill7", "a\tB1!", ""):
        for login in ("mara", ""):
            yield f"{password!r} {login}: {told(shortcomings(password, 5, every, login))}"
    turn = iter(range(10_000))
    for needs in (every, every[:1], []):
        yield make(8, needs, lambda alphabet: alphabet[(next(turn) * 37) % len(alphabet)])
    yield told(RANK)
    yield told(MOVES)
    yield told(
        [Pool(id="p", application_id="a", license="l", bought=b, held=2).free for b in (1, 2, 5)]
    )
    yield told(ReadingCounts(accounts=3, outside=1).by_name())
    leaves = [leaf_hash(bytes([n])) for n in range(6)]
    frontier: Frontier = ()
    for leaf in leaves:
        frontier = append(frontier, leaf)
        yield f"{size_of(frontier)} {[n for n, _ in frontier]} {root(frontier).hex()[:16]}"
    yield f"{root(()).hex()[:16]} {root_of(leaves).hex()[:16]} {canonical({'b': 1, 'a': 'é', 'c': NOW})!r}"  # type: ignore[dict-item]
    yield payload_digest(b"salt", {"a": 1}).hex()[:16]


def moments() -> Lines:
    """Dates as operators write them, offsets of procedures, working time, zones."""
    late = datetime(2031, 3, 26, 22, 30, tzinfo=UTC)
    texts = (
        "now",
        "NOW ",
        "+3h",
        "+3d",
        "+1w",
        "+99999d",
        "+3m",
        "today",
        "today 09:15",
        "tomorrow",
        "tomorrow 7:00",
        "wed",
        "Wed 08:41",
        "wed 10:40",
        "wed 10:41",
        "Thursday",
        "thu 00:00",
        "t",
        "tu",
        "su 23:59",
        "2031-03-30",
        "2031-03-30 02:30",
        "2031-03-30T03:30",
        "2031-02-30",
        "2031-03-30 24:00",
        "2031-03-30 10:60",
        "2031-03-30T10:00:00Z",
        "2031-03-30T10:00:00+02:00",
        "2031-03-99T10:00:00Z",
        "03/04/2031",
        "3.4.31 10:00",
        "",
        "soon",
        "friday 25:00",
        "31-03-2031",
    )
    for text in texts:
        for zone in ("UTC", "Europe/Helsinki"):
            yield f"{text!r} {zone}: {tried(partial(parse_moment, text, NOW, zone))}"
    for text in ("today", "tomorrow", "+1d", "thu", "2031-03-30", "2031-03-30T23:30:00Z"):
        yield f"day {text!r}: {tried(partial(parse_day, text, late, 'Europe/Helsinki'))}"
    yield told([is_zone(z) for z in ("UTC", "Europe/Oslo", "Nowhere", "", "../x", "a\0b")])
    people = [
        PEOPLE["on a term"],
        MARA,
        replace(MARA, last_working_day=date(2031, 3, 28), starts=date(2031, 3, 29)),
    ]
    for text in (
        "starts",
        "starts -2d 09:00",
        "starts +3h",
        "last_working_day -1d 16:30 working",
        "access_ends +1w",
        "contract_ends +1d 10:00 working",
        "Starts  +1D  7:05",
        "starts +25:00",
        "starts +1d 24:00",
        "starts +1d 10:60",
        "starts +3h 09:00",
        "starts +1d 23:59",
        "birthday +1d",
        "+1d",
        "starts + 1d",
        "starts +12345d",
        "access_ends -20h working",
    ):
        yield f"{text!r}: {tried(partial(parse_offset, text))}"
        for who in people:
            yield f"  {tried(partial(_moment, text, who))}"
    hours = WorkingHours()
    for day in (28, 29, 30, 31):
        for hour, minute in ((5, 59), (6, 0), (13, 59), (14, 0), (15, 0), (23, 0)):
            at = datetime(2031, 3, day, hour, minute, tzinfo=UTC)
            yield f"{at:%a %H:%M}: {told(hours.next(at, 'Europe/Helsinki'))}"
    for days in (
        ["mon", "Tuesday"],
        ["mo"],
        ["t"],
        ["thurs", "SUN "],
        [],
        ["monday", "mon"],
        ["x"],
    ):
        yield f"{days}: {tried(partial(parse_days, days))}"


def _moment(text: str, who: Person) -> datetime | None:
    return parse_offset(text).moment(who, WorkingHours())


def people() -> Lines:
    """States at their boundaries, names and fields, changes there and back."""
    second = timedelta(seconds=1)
    for name, who in PEOPLE.items():
        for field in ("starts", "access_ends", "absent_from", "absent_until"):
            value = getattr(who, field)
            moment = start_moment(who) if field == "starts" else value
            if moment is None:
                continue
            around = [state_at(who, moment + d).value for d in (-second, 0 * second, second)]
            yield f"{name}, {field}: {' '.join(around)}"
    yield told([term_end(d, z) for d, z in ((None, "UTC"), (date(2031, 3, 29), "Europe/Helsinki"))])
    for value in (None, 3, "x", date(2031, 3, 1), NOW, NOW.astimezone()):
        yield as_text(value)
    blank = replace(MARA, display_name="", given_name="", family_name="")
    yield told([full_name(p) for p in (MARA, replace(MARA, display_name=""), blank)])
    yield f"{search_text(MARA)!r} {search_text(blank)!r}"
    yield told(folded(PEOPLE["on a term"]))
    for changes in (["given_name"], ["family_name", "display_name"], ["site"], []):
        yield with_names(replace(MARA, given_name="Mia", display_name="M"), changes).display_name
    for document in (
        {},
        {"department": "Galley"},
        {"given_name": "Mia"},
        {"given_name": "Mia", "display_name": "Mi"},
        {"starts": "2031-04-01"},
        {"starts": ""},
        {"starts": None, "manager_id": ""},
        {"starts": "soon"},
        {"access_ends": "2031-04-01T10:00:00+02:00"},
        {"access_ends": "2031-04-01T10:00:00"},
        {"access_ends": "2031-04-01"},
        {"time_zone": "Europe/Oslo"},
        {"time_zone": "Mars"},
        {"time_zone": None},
        {"department": None},
        {"salary": "1"},
        {"id": "p9"},
    ):
        yield f"{told(document)}: {tried(partial(_changed, document))}"
    before, after = difference(MARA, PEOPLE["on a term"])
    yield f"{told(before)} → {told(after)}"
    yield told(fields_of(PEOPLE["absent"], ("absent_from", "starts", "title")))
    moved = replace(MARA, department="Galley", title="Cook")
    was, now = difference(MARA, moved)
    for since in (moved, replace(moved, title="Chef")):
        yield told(difference(MARA, taken_back(since, was, now)))
    for text in (
        "{login} {name} {mail} {site}",
        " {contract_ends} ",
        "{title}-{department}-{access_ends}",
        "{x}",
    ):
        yield f"{filled_in(text, PEOPLE['on a term'])!r} {filled_in(text, blank)!r}"


def _changed(document: Fields) -> tuple[Fields, Fields]:
    return difference(MARA, with_fields(MARA, document))


def wanted() -> Lines:
    """What people should have, and which value wins."""
    for name, who in PEOPLE.items():
        yield f"# {name}"
        for app, want in desired(subject(who), RULES, NOW).items():
            yield f"  {app}: {told(want)}"
    offers = ["2 GB", "500 MB", "1.5gb", "none", "2 GB x", "3", "", "4 kB", "9 b", "1 TB"]
    for how in Precedence:
        yield f"{how.value}: {merged(offers, how)!r} {merged(['b a', 'a c'], how)!r}"
    yield told([amount(o) for o in offers])
    roles = RULES.roles_of({"department": ("deck",)}, also=["Timetables"])
    yield f"{[r.name for r in roles]} {sorted(RULES.attributes())}"
    asked = And(
        (
            Compare("title", Op.CO, "x"),
            Not(Or((Present("site"), Compare("department", Op.EQ, "y")))),
        )
    )
    yield f"{list(attributes_of(asked))} {list(compared_in(asked))}"
    values = {"a": ("abc", "b"), "empty": ("",), "none": ()}
    for op, attribute, value in product(
        Op, ("a", "empty", "none", "gone"), ("abc", "b", "ab", "bc", "")
    ):
        yield f"{attribute} {op.value} {value!r}: {matches(Compare(attribute, op, value), values)}"
    for condition in (asked, And(()), Or(()), Present("a"), Present("empty"), Not(Present("gone"))):
        yield f"{told(condition)}: {matches(condition, values)}"
    yield told([fold(t) for t in (" Ab ", "ÅSE", "Straße", "ﬁ")])
    made = [decision(DecisionKind.HOLD, id=str(n)) for n in range(4)]
    dated = [
        made[0],
        replace(made[1], starts=NOW),
        replace(made[2], ends=NOW),
        replace(made[3], starts=NOW + timedelta(seconds=1)),
    ]
    yield told([d.id for d in in_force(dated, NOW)])


def windows() -> Lines:
    """Windows, profiles said over profiles, what is known after a look, what the first day needs."""
    for app in APPLICATIONS[:3]:
        due, until = close_due(NOW, app, "UTC"), recoverable_until(NOW, app)
        ends = setting_ends(NOW, app, "UTC")
        yield f"{app.id}: {told([due, until])} {told(ends)} {effective_deletion(app).value}"
    for deletion, lacks in product(
        Deletion, (set(), {Capability.RESTORE}, {Capability.RESTORE, Capability.SUSPEND})
    ):
        app = with_app("crew", profile={"deletion": deletion}).applications["crew"]
        app = replace(app, capabilities=app.capabilities - lacks)
        yield f"{deletion.value} without {told(lacks)}: {effective_deletion(app).value}"
    for state in STATES:
        for end in (None, NOW, NOW + timedelta(seconds=1)):
            have = account("crew", state, recoverable_until=end)
            yield f"{state.value} {told(end)}: {can_come_back(have, NOW)}"
    said = ProfileChange(window_days=3, must_change=False, alias_setting="")
    yield f"{said.named()} {told(said.over(ProfileChange(window_days=9, login_length=8)))}"
    crew = APPLICATIONS[0]
    yield told(with_profile(crew, said).profile)
    yield str(with_profile(crew, ProfileChange()) is crew)
    for seen in (
        None,
        SEEN,
        replace(SEEN, seats=None, assets=None),
        replace(SEEN, state=S.DELETED),
        replace(SEEN, state=S.DELETED, recoverable_until=NOW),
        replace(SEEN, state=S.SUSPENDED, recoverable_until=NOW),
    ):
        for known in (account("crew"), account("crew", S.DELETED)):
            yield told(project(known, seen, NOW, application=crew))
    yield told(project(account("crew"), replace(SEEN, state=S.DELETED), NOW))
    told_of = {
        "none": {},
        "not told": {"a-crew": CredentialState()},
        "told": {"a-crew": CredentialState(told_at=NOW)},
        "expired": {"a-crew": CredentialState(told_at=NOW, expired=True)},
        "opened": {"a-crew": CredentialState(told_at=NOW, opened_at=NOW, expired=True)},
    }
    for name in ("active", "expected in five days", "expected in two days"):
        for all_of in ((), *(everywhere(s) for s in STATES)):
            yield f"# {name}, {all_of[0].state.value if all_of else 'no accounts'}"
            for credential, states in told_of.items():
                if all_of and all_of[0].state is not S.ACTIVE and credential != "none":
                    continue
                bare = tuple(replace(a, sessions=0, seats=frozenset()) for a in all_of)
                for ready in readiness(subject(PEOPLE[name], *bare), world(), NOW, states, {}, {}):
                    yield f"  {credential}: {told(ready)}"
    used = {"a-crew": NOW}
    yield told(readiness(subject(MARA, *everywhere(S.ACTIVE)), world(), NOW, {}, used, {}))


def procedures() -> Lines:
    """The organisation's own steps, now and later."""
    for name, who in PEOPLE.items():
        for all_of in (
            (),
            (account("desk"),),
            (account("desk", settings={"survey": "leaver:2031-02-23T08:40:00Z"}),),
        ):
            whose = subject(who, *all_of)
            later = [(v.value, s.name, told(d)) for v, s, d in later_steps(whose, world())]
            ready = [(v.value, s.name) for v, s in ready_steps(whose, world(), NOW)]
            yield f"{name}: {later} ready {ready}"
    for verb in (Verb.JOINER, Verb.LEAVER, Verb.RECHECK, Verb.MOVER):
        for name in ("expected in two days", "left a month ago", "on a term"):
            yield f"# {verb.value}, {name}"
            whose = subject(PEOPLE[name], account("desk"))
            only = replace(
                world(), applications={k: world().applications[k] for k in ("desk", "crew")}
            )
            for line in show.plan(plan_subject(whose, only, NOW, verb)):
                if any(word in line for word in ("own step", "later", "cannot run")):
                    yield line
    early = replace(world(), rules=replace(RULES, since=NOW))
    yield told([s.name for _, s, _ in later_steps(subject(PEOPLE["on a term"]), early)])
    new = replace(world(), rules=replace(RULES, since=None))
    yield told([s.name for _, s, _ in later_steps(subject(PEOPLE["on a term"]), new)])
    yield told([s.later for s in (*OWN, *LEAVING)])
