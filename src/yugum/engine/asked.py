"""Who is asked for an approval, who may stand in for them, and what mails tell of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

from yugum.core import roles
from yugum.core.approvals import Answer, Asked, AskedPerson
from yugum.core.dockets import DocketDetail
from yugum.core.mails import Mail, MailKind
from yugum.core.people import Person, full_name
from yugum.core.plans import Caution
from yugum.core.roles import Rules
from yugum.core.verbs import Verb
from yugum.engine.managers import manager_of
from yugum.engine.own import decided_by
from yugum.errors import Forbidden
from yugum.ports.approvals import Approval
from yugum.ports.operators import OperatorRecord
from yugum.ports.units import UnitOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class Waiting:
    """What must be agreed to before it starts; ``about`` says what by approval.

    What nobody has confirmed yet has no ``docket_id`` and nothing to tell.
    """

    verb: Verb
    person: Person
    author: str
    applications: frozenset[str]
    docket_id: str = ""
    title: str = ""
    reason: str = ""
    digest: str = ""
    summary: str = ""
    about: Mapping[str, tuple[Asked, ...]] = field(default_factory=dict)


async def may_stand_in(
    unit: UnitOfWork, approval: Approval, keys: set[str], *, administrator: bool
) -> None:
    """Whether an administrator may answer for those who were asked.

    Raises:
        Forbidden: it is none, or their own doing.
    """
    if not administrator:
        asked = ", ".join(a.name for a in approval.asked)
        raise Forbidden(
            "You were not asked for this approval.",
            remedy=f"Asked are: {asked}." if asked else "An administrator can answer.",
        )
    docket = await unit.dockets.one(approval.docket_id)
    if keys & await _own(unit, docket.author, approval.subject_id):
        raise Forbidden(
            "Nobody approves their own doing.", remedy="Another administrator can answer."
        )


async def waiting_of(unit: UnitOfWork, docket: DocketDetail, digest: str) -> Waiting:
    """What those who must agree are told of a docket that there is."""
    people = await unit.people.many([docket.subject_id])
    steps = await unit.plans.steps_of(docket.id)
    return Waiting(
        docket_id=docket.id,
        verb=docket.verb,
        title=docket.title,
        person=people[docket.subject_id][0],
        author=docket.author,
        reason=docket.reason,
        digest=digest,
        summary=" ".join(docket.notes.summary),
        applications=frozenset(s.application_id for s in steps),
    )


async def told_author(
    unit: UnitOfWork, approval: Approval, refused: Answer | None = None, *, cancelled: bool
) -> list[Mail]:
    """What whoever asked for a docket is told when somebody refused, or nobody answered in time."""
    docket = await unit.dockets.one(approval.docket_id)
    author = await unit.operators.by_login(docket.author)
    if author is None or author.person_id is None:
        return []
    found = (await unit.people.many([author.person_id])).get(author.person_id)
    address = found[0].mail if found else ""
    if not address:
        return []
    asked = ", ".join(a.name for a in approval.asked) or "nobody"
    done = "Access ends at its time, nothing else is done"
    done = done if docket.verb is Verb.LEAVER else "It has done nothing"
    if refused is not None:
        said, text = "Refused", f"{refused.name} refused ({approval.name}): {refused.note}. "
        then = "The docket is cancelled, and what it said of the person is taken back."
    else:
        said, text = "Not approved in time", f"Nobody answered in time ({approval.name}; "
        text += f"asked: {asked}). "
        then = f"The docket is cancelled. {done}; it stays under Findings, "
        then += "from where it can be planned again."
    if not cancelled:
        then = "The docket had begun before: what it does stays, and can be undone."
    return [
        Mail(
            address=address,
            subject=f"{said}: {docket.title} of {docket.subject_name}",
            text=text + then,
            kind=MailKind.REMINDER,
            subject_id=approval.subject_id,
            docket_id=approval.docket_id,
        )
    ]


def reminders(approval: Approval) -> list[Mail]:
    subject = f"Reminder: your approval ({approval.name})"
    text = "A docket still waits for you. The link is in the first mail."
    return [
        Mail(
            address=one.mail,
            subject=subject,
            text=text,
            kind=MailKind.REMINDER,
            subject_id=approval.subject_id,
            docket_id=approval.docket_id,
        )
        for one in approval.asked
        if one.mail
    ]


def as_asked(operator: OperatorRecord, why: str = "") -> AskedPerson:
    return AskedPerson(
        key=f"operator:{operator.login}", name=operator.name or operator.login, why=why
    )


async def asked_by(
    unit: UnitOfWork, rule: roles.Approval, waiting: Waiting, now: datetime
) -> tuple[AskedPerson, ...]:
    """Who is asked; where a rule leads to nobody, the administrators are, and it says why."""
    found: list[AskedPerson] = []
    missing = ""
    for who in rule.by:
        if who == "manager":
            boss = await manager_of(unit, waiting.person, now)
            if boss is None:
                missing = "there is no manager"
                continue
            mail = boss.mail or boss.outside_mail
            found.append(
                AskedPerson(key=f"person:{boss.id}", name=full_name(boss), mail=mail, why="manager")
            )
        elif who == "owner":
            applications = await unit.applications.all()
            owners = {applications[a].owner for a in waiting.applications if a in applications}
            if not owners - {""}:
                missing = "no application touched has an owner"
            for login in sorted(owners - {""}):
                found += await _of_login(unit, login, "owner")
        else:
            found += await _of_login(unit, who, "")
    asked = await _less_own(unit, found, waiting)
    if asked:
        return asked
    missing = missing or (
        "nobody may approve their own doing" if rule.by else "a second operator must agree"
    )
    return await _administrators(unit, waiting, f"{missing}, so administrators are asked")


async def deputies(
    unit: UnitOfWork, rule: roles.Approval, waiting: Waiting, now: datetime
) -> tuple[AskedPerson, ...]:
    """Who is asked as well once nobody has answered: the rule's deputies, else administrators."""
    if rule.deputies:
        stand_in = replace(rule, by=rule.deputies, deputies=())
        asked = await asked_by(unit, stand_in, waiting, now)
        return tuple(replace(a, why=a.why or "deputy") for a in asked)
    return await _administrators(unit, waiting, "nobody has answered, so administrators are asked")


async def could_agree(
    unit: UnitOfWork, name: str, rules: Rules, waiting: Waiting, now: datetime
) -> Caution:
    """Who will be asked for an approval; where nobody could agree, who might be given the right."""
    rule = rules.approvals.get(name) or roles.Approval(name, ())
    asked = await asked_by(unit, rule, waiting, now)
    if asked:
        told = ", ".join(f"{a.name} ({a.why})" if a.why else a.name for a in asked[:5])
        more = f" and {len(asked) - 5} more" if len(asked) > 5 else ""
        every = "all of them" if rule.everyone and len(asked) > 1 else "one of them"
        every = f"; {every} must agree" if len(asked) > 1 else ""
        return Caution("asked", f"Waits for an approval ({name}) of {told}{more}{every}.")
    page = await unit.operators.page(None, 200)
    others = [
        o.name or o.login
        for o in page.items
        if o.active and o.login != waiting.author and o.person_id != waiting.person.id
    ]
    text = f"Nobody could agree to it ({name}). "
    if others:
        text += f"The right might be given to {', '.join(others[:5])}: make one an administrator."
    else:
        text += "Add a second operator: yugum operators add LOGIN --role administrator."
    return Caution("nobody-agrees", text)


async def _less_own(
    unit: UnitOfWork, found: Sequence[AskedPerson], waiting: Waiting
) -> tuple[AskedPerson, ...]:
    """Nobody approves their own doing."""
    own = await _own(unit, waiting.author, waiting.person.id)
    return tuple({one.key: one for one in found if one.key not in own}.values())


async def _own(unit: UnitOfWork, login: str, subject_id: str) -> set[str]:
    """Under which keys somebody would be asked about their own doing, or about themselves."""
    author = await decided_by(unit, login)
    as_person = {f"person:{author.person_id}"} if author is not None and author.person_id else set()
    return {f"operator:{author.login if author else login}", f"person:{subject_id}", *as_person}


async def _administrators(unit: UnitOfWork, waiting: Waiting, why: str) -> tuple[AskedPerson, ...]:
    everybody = await unit.operators.administrators()
    return await _less_own(
        unit,
        [as_asked(one, why) for one in everybody],
        waiting,
    )


async def _of_login(unit: UnitOfWork, login: str, why: str) -> list[AskedPerson]:
    operator = await unit.operators.by_login(login)
    return (
        [as_asked(operator, why)]
        if operator is not None and operator.active and not operator.owner_id
        else []
    )
