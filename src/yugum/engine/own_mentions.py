"""Where Yugum itself names somebody: rules, successors of others, contacts of applications."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from yugum.core.applications import Application
from yugum.core.desired import Subject
from yugum.core.mentions import Mention, names_in, words_in
from yugum.core.people import full_name
from yugum.ports.units import UnitOfWork


async def own_mentions(
    unit: UnitOfWork, subject: Subject, applications: Iterable[Application], now: datetime
) -> list[Mention]:
    """Each with where to change it; nothing of it is changed by itself."""
    person = subject.person
    names = names_in(person, (), "")
    names |= {o.login.casefold() for o in await unit.operators.of_people([person.id])}
    found: list[Mention] = []
    rules = await unit.rules.current()
    for number, line in enumerate((rules.text if rules else "").splitlines(), 1):
        if names & words_in(line.split(" #", 1)[0]):
            effect = "what these rules give somebody to do is done by nobody"
            found.append(_own("rule", f"rules, line {number}", line.strip(), effect))
    named = await unit.decisions.naming(person.id, now)
    others = await unit.people.many({d.subject_id for d in named})
    for decision in named:
        of = others.get(decision.subject_id)
        whose = full_name(of[0]) if of else decision.subject_id
        what = " ".join(p for p in (decision.payload.item, decision.payload.application) if p)
        place = f"successor of {whose}" + (f", {what}" if what else "")
        found.append(_own("decision", place, full_name(person), "what they own stays open"))
    for application in applications:
        if names & words_in(application.contact):
            effect = "who is called about this application is gone"
            found.append(
                _own("contact", f"contact of {application.name}", application.contact, effect)
            )
    return found


def _own(kind: str, place: str, text: str, effect: str) -> Mention:
    return Mention(application_id="", key=place, kind=kind, place=place, text=text, effect=effect)
