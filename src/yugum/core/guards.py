"""Guards: what speaks against a leaver plan, told in the preview, blocking where the rules say so."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from yugum.core.accounts import Account, AccountKind, AccountState
from yugum.core.actions import Action
from yugum.core.applications import Application
from yugum.core.desired import Subject, World
from yugum.core.people import Person, full_name
from yugum.core.plans import Caution, Plan, PlannedStep
from yugum.core.roles import Guard, GuardForce
from yugum.core.wording import plural

STANDARD: Mapping[Guard, GuardForce] = {
    Guard.LAST_ADMINISTRATOR: GuardForce.OVERRIDE,
    Guard.SERVICE_ACCOUNTS: GuardForce.WARN,
    Guard.REPORTS: GuardForce.WARN,
    Guard.LOOK_ALIKE: GuardForce.WARN,
}
"""What a guard does unless the rules say otherwise."""
PREFIX = "guard:"


@dataclass(frozen=True, slots=True, kw_only=True)
class Namesake:
    """Somebody who could be taken for somebody else."""

    name: str
    employee_number: str
    department: str
    site: str

    def told(self) -> str:
        """``Ada Vik (no. 40123, Deck, Oxhaven)``."""
        return f"{self.name} (no. {self.employee_number}, {self.department}, {self.site})"


@dataclass(frozen=True, slots=True, kw_only=True)
class Surroundings:
    """What is known around some people, by person.

    ``others`` counts, for an application, the open accounts of others in its group of
    administrators; ``alike`` names people who could be taken for this one, ``knows`` the shared
    credentials somebody knows, ``has`` the equipment they have. ``works_here`` names operators of Yugum, with the integrations they
    answer for, ``heirs`` who becomes the manager of those who report to somebody. ``inherited`` says what they have
    from whom by which docket, ``heir_of`` from whom they were chosen to take over.
    """

    reports: Mapping[str, Sequence[str]] = field(default_factory=dict)
    alike: Mapping[str, Sequence[Namesake]] = field(default_factory=dict)
    others: Mapping[str, int] = field(default_factory=dict)
    knows: Mapping[str, Sequence[str]] = field(default_factory=dict)
    has: Mapping[str, Sequence[str]] = field(default_factory=dict)
    works_here: Mapping[str, Sequence[str]] = field(default_factory=dict)
    heirs: Mapping[str, str] = field(default_factory=dict)
    inherited: Mapping[str, Sequence[str]] = field(default_factory=dict)
    heir_of: Mapping[str, Sequence[str]] = field(default_factory=dict)


def guard_leaver(subject: Subject, world: World, around: Surroundings) -> list[Caution]:
    """Everything that speaks against letting somebody go, or asks for a second look."""
    person, found = subject.person, []
    name = full_name(person)
    for account in subject.accounts:
        application = world.applications.get(account.application_id)
        if application is None or account.state is not AccountState.ACTIVE:
            continue
        has = administers(account, application, world)
        last = has and not around.others.get(application.id)
        if account.kind is not AccountKind.PERSON:
            text = (
                f"{name} stands behind {account.login} in {application.name}; name somebody else."
            )
            found.append(_caution(Guard.SERVICE_ACCOUNTS, text, world))
        elif last:
            text = f"{name} is the last administrator of {application.name}: nobody else has {has}."
            found.append(_caution(Guard.LAST_ADMINISTRATOR, text, world))
    if shared := around.knows.get(person.id):
        text = f"{name} knows {plural(len(shared), 'shared credential')}: {', '.join(shared)}."
        found.append(Caution("shared", f"{text} Change them; they are listed until then."))
    if things := around.has.get(person.id):
        text = f"{name} has {plural(len(things), 'thing')} to give back: {', '.join(things[:5])}"
        more = f" and {len(things) - 5} more." if len(things) > 5 else "."
        found.append(Caution("equipment", f"{text}{more} They are listed until they are back."))
    found += _handed(person, around)
    if person.id in around.works_here:
        text = f"{name} works with Yugum: sessions and API tokens end with the first step."
        if fed := around.works_here[person.id]:
            text += (
                f" {plural(len(fed), 'integration')} they answer for ({', '.join(fed)}) "
                f"{'goes' if len(fed) == 1 else 'go'} on under the successor, or an administrator."
            )
        found.append(Caution("works-here", text))
    if reports := around.reports.get(person.id):
        some = ", ".join(reports[:3]) + (" …" if len(reports) > 3 else "")
        verb = "reports" if len(reports) == 1 else "report"
        text = f"{plural(len(reports), 'person', 'people')} {verb} to {name}: {some}."
        if heir := around.heirs.get(person.id):
            text += f" From then on to {heir}."
        found.append(_caution(Guard.REPORTS, text, world))
    if alike := around.alike.get(person.id):
        text = (
            f"Make sure who is meant. Much like {name}: {'; '.join(a.told() for a in alike[:3])}."
        )
        found.append(_caution(Guard.LOOK_ALIKE, text, world))
    return found


def _handed(person: Person, around: Surroundings) -> list[Caution]:
    """What somebody has from others and goes on from them, and from whom they cannot take over any more."""
    name, found = full_name(person), []
    if came := around.inherited.get(person.id):
        text = f"{name} has by handover: {'; '.join(came[:5])}{' …' if len(came) > 5 else '.'}"
        found.append(Caution("inherited", text))
    if owners := around.heir_of.get(person.id):
        some = ", ".join(owners[:3]) + (" …" if len(owners) > 3 else "")
        text = f"{name} was chosen to take over from {some}; choose somebody else there."
        found.append(Caution("heir", text))
    return found


def administers(account: Account, application: Application, world: World) -> str:
    """By which group or level an account administers its application; "" where it does not."""
    group = application.profile.admin_group
    if group and group in account.entitlements:
        return group
    for name, levels in world.rules.mapped(application.id).levels.items():
        if (level := account.settings.get(name, "")) in levels.administrators:
            return f"{name} {level}"
    return ""


def guard_last(plan: Plan, subject: Subject, world: World, around: Surroundings) -> list[Caution]:
    """What speaks against a plan by which the last administrator of an application is none any more."""
    found = []
    for account in subject.accounts:
        application = world.applications[account.application_id]
        has = administers(account, application, world)
        if not has or around.others.get(application.id):
            continue
        mine = [s for s in plan.steps if s.account_id == account.id]
        if any(_lowers(s, application, world) for s in mine):
            name = full_name(subject.person)
            text = f"{name} is the last administrator of {application.name}: nobody else has {has}."
            found.append(_caution(Guard.LAST_ADMINISTRATOR, text, world))
    return found


def _lowers(step: PlannedStep, application: Application, world: World) -> bool:
    """Whether by a step somebody is no administrator any more, or cannot act as one."""
    if step.action is Action.REVOKE:
        return step.item == application.profile.admin_group
    if step.action in (Action.SET, Action.UPDATE):
        level = world.rules.mapped(application.id).levels.get(step.item)
        return level is not None and step.arguments.value not in level.administrators
    return step.action in (Action.CUT_OFF, Action.LOCK)


def _caution(name: Guard, text: str, world: World) -> Caution:
    how = world.rules.guards.get(name, STANDARD[name])
    return Caution(f"{PREFIX}{name.value}", text, "" if how is GuardForce.WARN else how.value)
