"""The proof ``findings``: what a Monday morning shows before any rule is written."""

from __future__ import annotations

from typing import Any

import bonsai

from tests.proofs.play import Play
from yugum.cli.money import amounts
from yugum.core.applications import Trust
from yugum.core.deviations import DeviationKind
from yugum.core.findings import FindingKind
from yugum.core.verbs import Verb
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.directory import BASE, person_entry
from yugum_standins.load import advance
from yugum_standins.morrow import CREW, DIRECTORY, ZONE, employees

LEFT = 3


def those_who_left() -> list[str]:
    """Of whom the people file says that they are gone."""
    return [p.user_name for p in employees() if p.department == "Deck"][10 : 10 + LEFT]


def findings(play: Play) -> None:
    """Read-only applications and a people file: the planted findings, and nothing changed."""
    client, report = play.client, play.report
    gone = those_who_left()
    before = _everything(play)

    report.section("The people file says that three have left; one stands in it twice")
    twin = play.organisation.people[40]
    client.people.create(
        [
            wp.NewPerson(
                user_name=f"{twin.user_name}x",
                given_name=twin.given_name,
                family_name=twin.family_name,
                employee_number="49901",
                department=twin.department,
                time_zone=ZONE,
                another=True,
            )
        ]
    )
    advance(client, "2031-01-28 09:00")

    report.section("What is found, with no rule at all")
    counts = {c.kind: c for c in client.findings.counts()}
    for kind, found in counts.items():
        report.note(f"{kind}: {found.count}, {amounts(found.cost) or 0} a month in seats")
    rows = list(client.findings.all())
    open_late = {f.login for f in rows if f.kind == "leaver-open"}
    report.equal("leavers with open accounts: exactly the three", open_late, set(gone))
    report.check(
        "their seats are counted in money",
        bool(counts[FindingKind.LEAVER_SEAT].cost),
        counts[FindingKind.LEAVER_SEAT],
    )
    nobody = {(f.application_name, f.login) for f in rows if f.kind == "nobody-behind"}
    report.equal(
        "accounts with nobody behind",
        nobody,
        {("Radio licences", "oldquay"), ("Radio licences", "vhf-7")},
    )
    shared = {f.login for f in rows if f.kind == "without-owner"}
    report.equal(
        "shared and service accounts, and a group, without an owner",
        shared,
        {"quay-desk", "svc-display", "svc_loader", "Berth planners"},
    )
    sleepers = {f.login for f in rows if f.kind == "sleeper"}
    report.check("sleepers are named with their days", len(sleepers) == 5, sleepers)
    twice = [f.login for f in rows if f.kind == "person-twice"]
    report.check("the person in the file twice is found", len(twice) == 1, twice)
    proposals = {(p.login, p.person_name) for p in client.accounts.proposals()}
    report.check("likely links wait to be looked at", len(proposals) >= 1, proposals)

    report.section("Nothing was changed anywhere")
    plan = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[gone[0]]))
    report.equal("a plan in watched applications has no step", len(plan.plans[0].steps), 0)
    report.check(
        "and says why",
        any(c.code == "not-trusted" for c in plan.plans[0].cautions),
        plan.plans[0].cautions,
    )
    report.equal("every application holds what it held", _everything(play), before)
    _by_hand(play)


def _by_hand(play: Play) -> None:
    client, report = play.client, play.report
    report.section("Somebody adds an account and a membership by hand in the staff directory")
    member = play.organisation.people[50].user_name
    with play.directory.directory.client().connect(timeout=5) as connection:
        connection.add(person_entry("backdoor", "Bo", "Backdoor", ""))
        group = bonsai.LDAPEntry(f"cn=Harbour radio,ou=groups,{BASE}", connection)
        group.change_attribute("member", bonsai.LDAPModOp.ADD, f"uid={member},ou=people,{BASE}")  # type: ignore[arg-type]
        group.modify()
    client.applications.read(DIRECTORY)
    found = {(d.login, d.kind, d.item): d for d in client.findings.outside(DIRECTORY)}
    report.equal(
        "both appear",
        set(found),
        {("backdoor", "account", ""), (member, "entitlement", "Harbour radio")},
    )
    refused = ""
    try:
        client.findings.revert(found["backdoor", DeviationKind.ACCOUNT, ""].id)
    except Exception as error:  # noqa: BLE001 - whatever it is, it is shown
        refused = str(error)
    report.check("watched, it cannot be put back", "only watched" in refused, refused)
    client.applications.trust(DIRECTORY, Trust.FULL)
    for change in found.values():
        decided = client.findings.revert(change.id)
        for _ in client.dockets.follow(str(decided.docket)):
            pass
        report.note(f"{change.login} {change.item or 'account'}: docket {decided.docket}")
    report.equal("the membership is gone", "Harbour radio" in play.directory.groups(member), False)
    entry = play.directory.entry("backdoor")
    report.check("the account is locked", "pwdAccountLockedTime" in entry, entry)
    report.check(
        "and parked until it is removed", "parked until" in str(entry.get("description")), entry
    )
    report.equal("no change is open any more", client.findings.outside(DIRECTORY), [])
    client.applications.read(DIRECTORY)
    report.equal("reading again finds nothing new", client.findings.outside(DIRECTORY), [])


def _everything(play: Play) -> dict[str, Any]:
    """What the applications hold, asked directly: who is active, in which groups."""
    with play.directory.directory.client().connect(timeout=5) as connection:
        entries = connection.search(BASE, 2, "(objectClass=inetOrgPerson)", ["uid", "memberOf"])
        directory = sorted((str(e.dn), sorted(map(str, e.get("memberOf", [])))) for e in entries)
    return {
        DIRECTORY: directory,
        CREW: len(play.crew.log()),
        "reporting": play.reporting.roles(),
    }
