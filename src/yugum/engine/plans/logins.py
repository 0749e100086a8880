"""Logins that somebody else has by now: told in the plan, with what to do, not by a failure later."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime, timedelta

from yugum.core.actions import Action
from yugum.core.desired import World
from yugum.core.plans import Caution, FidelityLine, Plan
from yugum.core.roles import Rules
from yugum.engine.plans.meanings import Meaning
from yugum.errors import Conflict
from yugum.ports.units import UnitOfWork

TAKEN = "login-taken"
ANOTHER = "Take another; free ones are suggested by: yugum names suggest."


async def must_be_free(
    unit: UnitOfWork, meanings: Mapping[str, Meaning], rules: Rules, now: datetime
) -> None:
    """Nobody is renamed to a login that a person, also one who has left, or an account has.

    Raises:
        Conflict: one is taken, or asked for twice.
    """
    wanted: dict[str, str] = {}
    for person_id, meaning in meanings.items():
        login = meaning.after.user_name
        if not meaning.renamed_from or login.casefold() == meaning.renamed_from.casefold():
            continue
        if login.casefold() in wanted:
            raise Conflict(f"Two would be called {login}.", place="user_name", remedy=ANOTHER)
        wanted[login.casefold()] = person_id
    if not wanted:
        return
    since = now - timedelta(days=rules.names.quarantine_days)
    held = await unit.people.login_held_by(list(wanted), since, now, list(meanings))
    for taken in held.values():
        raise Conflict(
            f"The login {taken.login} is taken: {taken.told()}.", place="user_name", remedy=ANOTHER
        )
    others = {k.user_name: k.id for k in await unit.people.by_keys(wanted, [])}
    for login, person_id in others.items():
        if person_id != wanted[login]:
            raise Conflict(
                f"The login {login} is that of somebody who has left.",
                place="user_name",
                remedy=ANOTHER,
            )


async def restorable(unit: UnitOfWork, plan: Plan, world: World) -> Plan:
    """The plan without accounts that cannot come back, for their login is another's in the application."""
    back = {s.account_id: s for s in plan.steps if s.action is Action.RESTORE}
    taken = await unit.accounts.namesakes(list(back)) if back else {}
    if not taken:
        return plan
    cautions, lost = list(plan.cautions), []
    for account_id, (login, holder) in taken.items():
        name = world.applications[back[account_id].application_id].name
        lost.append(
            FidelityLine(f"{name}: account {login}", False, f"the login is {holder}'s by now")
        )
        cautions.append(
            Caution(
                TAKEN,
                f"{name}: {login} cannot come back, for the login is {holder}'s by now. Rename that "
                "account, or make a new one under another login.",
                Action.RESTORE.value,
            )
        )
    gone = {line.what for line in lost}
    kept = [f for f in plan.fidelity if f.what not in gone]
    steps = tuple(s for s in plan.steps if s.account_id not in taken)
    return replace(plan, steps=steps, cautions=tuple(cautions), fidelity=(*lost, *kept))


def must_be_restorable(plan: Plan) -> None:
    """What is asked for of one account is refused as a whole.

    Raises:
        Conflict: an account's login is another's by now.
    """
    for caution in plan.cautions:
        if caution.code == TAKEN:
            text, _, remedy = caution.text.partition(". ")
            raise Conflict(f"{text}.", place="accounts", remedy=remedy)
