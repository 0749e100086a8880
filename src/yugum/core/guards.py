"""Guards: what speaks against a leaver plan, told in the preview, blocking where the rules say so."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from yugum.core.accounts import AccountKind, AccountState
from yugum.core.desired import Subject, World
from yugum.core.people import full_name
from yugum.core.plans import Caution
from yugum.core.summaries import plural

STANDARD: Mapping[str, str] = {
    "last-administrator": "override",
    "service-accounts": "warn",
    "reports": "warn",
    "look-alike": "warn",
}
"""What a guard does unless the rules say otherwise: block, override (with a reason) or warn."""
PREFIX = "guard:"


@dataclass(frozen=True, slots=True, kw_only=True)
class Surroundings:
    """What is known around some people, by person.

    ``others`` counts, for an application, the open accounts of others in its group of
    administrators; ``alike`` names people who could be taken for this one, ``knows`` the shared
    credentials somebody knows.
    """

    reports: Mapping[str, Sequence[str]] = field(default_factory=dict)
    alike: Mapping[str, Sequence[str]] = field(default_factory=dict)
    others: Mapping[str, int] = field(default_factory=dict)
    knows: Mapping[str, Sequence[str]] = field(default_factory=dict)


def guard_leaver(subject: Subject, world: World, around: Surroundings) -> list[Caution]:
    """Everything that speaks against letting somebody go, or asks for a second look."""
    person, found = subject.person, []
    name = full_name(person)
    for account in subject.accounts:
        application = world.applications.get(account.application_id)
        if application is None or account.state is not AccountState.ACTIVE:
            continue
        group = application.profile.admin_group
        last = group and group in account.entitlements and not around.others.get(application.id)
        if account.kind is not AccountKind.PERSON:
            text = (
                f"{name} stands behind {account.login} in {application.name}; name somebody else."
            )
            found.append(_caution("service-accounts", text, world))
        elif last:
            text = (
                f"{name} is the last administrator of {application.name}: nobody else has {group}."
            )
            found.append(_caution("last-administrator", text, world))
    if shared := around.knows.get(person.id):
        text = f"{name} knows {plural(len(shared), 'shared credential')}: {', '.join(shared)}."
        found.append(Caution("shared", f"{text} Change them; they are listed until then."))
    if reports := around.reports.get(person.id):
        some = ", ".join(reports[:3]) + (" …" if len(reports) > 3 else "")
        verb = "reports" if len(reports) == 1 else "report"
        text = f"{plural(len(reports), 'person')} {verb} to {name}: {some}."
        found.append(_caution("reports", text.replace("persons", "people"), world))
    if alike := around.alike.get(person.id):
        text = f"Make sure who is meant. Much like {name}: {'; '.join(alike[:3])}."
        found.append(_caution("look-alike", text, world))
    return found


def _caution(name: str, text: str, world: World) -> Caution:
    how = world.rules.guards.get(name, STANDARD[name])
    return Caution(f"{PREFIX}{name}", text, "" if how == "warn" else how)
