"""Preparing what is done to a group itself: made, or changed; retiring is a quick action."""

from __future__ import annotations

import uuid
from datetime import datetime

from yugum.core.accounts import Account, AccountKind, AccountState
from yugum.core.causes import GroupCause
from yugum.core.desired import World
from yugum.core.groups import FIELDS, Owner, must_have_groups, plan_group, settings_of
from yugum.core.people import PersonState, full_name, state_at
from yugum.core.requests import PlanRequest
from yugum.engine.context import Loaded, load_subjects, load_world, observe_all
from yugum.engine.givers import givers_of
from yugum.engine.plans.kept import BatchView, Made, keep
from yugum.engine.plans.making import charge
from yugum.engine.plans.safeguards import Actor, with_silence
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.ports.connectors import Connectors
from yugum.ports.units import Database, UnitOfWork

LONGEST = 120
PLACE = "place:"
"""Leads what stands for the id of a group that is not made yet."""


async def prepare_group(
    database: Database,
    connectors: Connectors,
    request: PlanRequest,
    actor: Actor,
    now: datetime,
) -> BatchView:
    """A group made as said, or the one of that name changed.

    Raises:
        InvalidInput: what is said of it is nothing that a group there has, or nobody.
        Conflict: the application lets nobody do that, or the name is taken.
    """
    values = _said(request)
    async with database.unit() as unit:
        world = await load_world(unit)
        account = await _group(unit, world, request)
        await unit.leases.make_subjects([account.id])
        known = await unit.accounts.known([account.id])
    silent, _ = await observe_all(database, connectors, known, now)
    async with database.unit() as unit:
        world = await load_world(unit)
        application = world.applications[request.application]
        owner = await _owner(unit, world, request.application, values.get("owner", ""), now)
        name = values.pop("name", "")
        if name and name != account.login:
            await _must_be_free(unit, request.application, name)
        settings = settings_of(application, values, owner)
        known = await unit.accounts.known([account.id])
        subject = (await load_subjects(unit, dict(known.people), known, now, world.rules))[
            account.id
        ]
        givers = await givers_of(unit, world, subject.accounts, now)
        plan = plan_group(subject, world, subject.accounts[0], settings, now, givers, name)
        world = charge(world, plan, subject.person)
        cause = GroupCause(account=account.id, settings=settings, name=name)
        made = Made(with_silence(plan, silent, world), cause, now)
        return await keep(unit, [made], Loaded(known, world.rules.version), actor, now)


def _said(request: PlanRequest) -> dict[str, str]:
    """What is said of the group, by name."""
    if not request.group.strip() or len(request.group) > LONGEST:
        raise InvalidInput(f"A group needs a name of at most {LONGEST} characters.", place="group")
    values = {name: value.strip() for name, value in request.values.items()}
    if unknown := sorted(set(values) - {*FIELDS, "name"}):
        raise InvalidInput(
            f"Nothing is known of a group's {unknown[0]}.",
            place=f"values.{unknown[0]}",
            remedy=f"Use: {', '.join((*FIELDS, 'name'))}.",
        )
    if request.new and "name" in values:
        raise InvalidInput("A new group is named once.", place="values.name")
    if "name" in values and not values["name"]:
        raise InvalidInput("A group cannot do without a name.", place="values.name")
    return values


async def _group(unit: UnitOfWork, world: World, request: PlanRequest) -> Account:
    """The group of that name, or a place for one that is to be made."""
    application = world.applications.get(request.application)
    if application is None:
        raise NotFound(f"There is no application {request.application}.", place="application")
    must_have_groups(application)
    found = await unit.groups.named(request.application, request.group.strip())
    there = found is not None and found.state is not AccountState.PURGED
    if request.new and there:
        raise Conflict(
            f"{application.name} has a group {request.group} already.",
            place="group",
            remedy="Change that one, or bring it back if it is retired.",
        )
    if found is not None and (there or request.new):
        return found
    if not request.new:
        raise NotFound(
            f"{application.name} has no group {request.group}.",
            place="group",
            remedy="See: yugum groups list.",
        )
    key = str(uuid.uuid4())
    place = Account(
        id=key,
        external_id=f"{PLACE}{key}",
        application_id=application.id,
        person_id=None,
        kind=AccountKind.GROUP,
        login=request.group.strip(),
        state=AccountState.PURGED,
    )
    await unit.groups.put(place)
    return place


async def _must_be_free(unit: UnitOfWork, application_id: str, name: str) -> None:
    other = await unit.groups.named(application_id, name)
    if other is not None and other.state is not AccountState.PURGED:
        raise Conflict(f"There is a group {name} already.", place="values.name")


async def _owner(
    unit: UnitOfWork, world: World, application_id: str, who: str, now: datetime
) -> Owner | None:
    """Who is to own the group, with their account where it is.

    Raises:
        InvalidInput: they have left, or have no open account there.
    """
    if not who:
        return None
    person = await unit.people.resolve(who)
    name = full_name(person)
    if state_at(person, now) is PersonState.LEFT:
        raise InvalidInput(f"{name} has left.", place="values.owner", remedy="Name somebody else.")
    accounts = (await unit.accounts.known([person.id])).accounts[person.id]
    mine = [
        a
        for a in accounts
        if a.application_id == application_id
        and a.kind is AccountKind.PERSON
        and a.state is AccountState.ACTIVE
    ]
    if not mine:
        where = world.applications[application_id].name
        raise InvalidInput(
            f"{name} has no open account in {where}.",
            place="values.owner",
            remedy="Give one first, or name somebody else.",
        )
    return Owner(name, mine[0])
