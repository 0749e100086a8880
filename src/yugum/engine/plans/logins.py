"""Logins that somebody else has by now: told in the plan, with what to do, not by a failure later."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from yugum.core.actions import Action
from yugum.core.desired import World
from yugum.core.plans import Caution, FidelityLine, Plan
from yugum.core.roles import Rules
from yugum.engine.plans.meanings import Meaning
from yugum.errors import Conflict
from yugum.ports.units import UnitOfWork

ANOTHER = "Take another; free ones are suggested by: yugum names suggest."


async def must_be_free(
    unit: UnitOfWork, meanings: Mapping[str, Meaning], rules: Rules, now: datetime
) -> None:
    """Nobody gets, by whatever verb, a login that a person, also one who has left, or an account has.

    Raises:
        Conflict: one is taken, or asked for twice.
    """
    wanted: dict[str, str] = {}
    for person_id, meaning in meanings.items():
        login = meaning.changes.get("user_name")
        if not login:
            continue
        if login.casefold() in wanted:
            raise Conflict(f"Two would be called {login}.", place="user_name", remedy=ANOTHER)
        wanted[login.casefold()] = person_id
    if not wanted:
        return
    since = now - timedelta(days=rules.names.quarantine_days)
    held = await unit.people.login_held_by(list(wanted), since, now, list(meanings))
    if taken := next(iter(held.values()), None):
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
    taken = await _taken(unit, plan, world)
    if not taken:
        return plan
    lost = [
        FidelityLine(t.what, False, f"the login is {t.holder}'s by now") for t in taken.values()
    ]
    told = [
        Caution("login-taken", f"{t.told()} {RENAME_IT}", Action.RESTORE.value)
        for t in taken.values()
    ]
    gone = {line.what for line in lost}
    kept = [f for f in plan.fidelity if f.what not in gone]
    steps = tuple(s for s in plan.steps if s.account_id not in taken)
    cautions = (*plan.cautions, *told)
    return replace(plan, steps=steps, cautions=cautions, fidelity=(*lost, *kept))


async def must_be_restorable(unit: UnitOfWork, plan: Plan, world: World) -> None:
    """What is asked for of accounts is refused as a whole.

    Raises:
        Conflict: an account's login is another's by now.
    """
    for one in (await _taken(unit, plan, world)).values():
        raise Conflict(one.told(), place="accounts", remedy=RENAME_IT)


RENAME_IT = "Rename that account, or make a new one under another login."


@dataclass(frozen=True, slots=True)
class _Taken:
    """A login that an account would come back under, and who has it by now."""

    application: str
    login: str
    holder: str

    @property
    def what(self) -> str:
        return f"{self.application}: account {self.login}"

    def told(self) -> str:
        return f"{self.application}: {self.login} cannot come back, for the login is {self.holder}'s by now."


async def _taken(unit: UnitOfWork, plan: Plan, world: World) -> dict[str, _Taken]:
    """The accounts that a plan brings back and whose login is another's, by their ids."""
    back = {s.account_id: s for s in plan.steps if s.action is Action.RESTORE}
    held = await unit.accounts.namesakes(list(back)) if back else {}
    return {
        i: _Taken(world.applications[back[i].application_id].name, login, holder)
        for i, (login, holder) in held.items()
    }
