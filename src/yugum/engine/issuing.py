"""New credentials for many accounts at once, and slips to hand them out on paper."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from yugum.core.accounts import Account, AccountKind
from yugum.core.applications import Application, Capability
from yugum.core.invitations import takes_credential
from yugum.core.people import Person, full_name
from yugum.core.slips import Slip
from yugum.engine.context import load_applications
from yugum.engine.credentials import Credentials
from yugum.engine.events import make_event
from yugum.engine.whom import people_named
from yugum.errors import InvalidInput, YugumError
from yugum.ports.clock import Clock
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class Issued:
    """An account that gets a new credential by a docket, or why it gets none."""

    person: Person
    account_id: str
    application: str
    login: str
    docket: int | None = None
    problem: str = ""


@dataclass(frozen=True, slots=True)
class _Meant:
    person: Person
    account: Account
    application: Application


class Issuing:
    def __init__(
        self, database: Database, clock: Clock, vault: Vault, credentials: Credentials
    ) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._credentials = credentials

    async def issue(
        self,
        who: Sequence[str],
        applications: Sequence[str],
        author: str,
        *,
        reason: str,
        reference: str,
        look: bool,
    ) -> list[Issued]:
        """A new credential for each open account of some people, told of as the first one was.

        In all applications that take one, or those that are named. Each is a docket of its own, so that
        one that fails holds up no other. With ``look`` nothing happens.

        Raises:
            InvalidInput: an application that is named takes no credential.
        """
        async with self._database.unit(alone=True) as unit:
            meant = await _meant(unit, who, applications)
        made = []
        for one in meant:
            if not takes_credential(one.account, one.application):
                continue
            docket, problem = None, ""
            if not look:
                try:
                    docket = await self._credentials.renew(
                        one.account.id, author, reason, reference
                    )
                except YugumError as error:
                    problem = error.message
            made.append(
                Issued(
                    person=one.person,
                    account_id=one.account.id,
                    application=one.application.name,
                    login=one.account.login,
                    docket=docket,
                    problem=problem,
                )
            )
        return made

    async def slips(
        self, who: Sequence[str], applications: Sequence[str], author: str
    ) -> tuple[list[Slip], list[str]]:
        """Slips of the credentials that nobody has opened, which with this are; and who has none.

        Whoever prints them has seen them: each is on record.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            meant = {m.account.id: m for m in await _meant(unit, who, applications)}
            people = [m.person.id for m in meant.values()]
            taken = {
                c.account_id: c.cipher for c in await unit.credentials.take([*meant], people, now)
            }
            await unit.audit.add(
                [
                    make_event(
                        now, author, "credential.printed", meant[i].person.id, {"account": i}
                    )
                    for i in taken
                ]
            )
        slips = [
            Slip(
                name=full_name(m.person),
                department=m.person.department,
                site=m.person.site,
                application=m.application.name,
                login=m.account.login,
                secret=self._vault.open(taken[i]),
                must_change=m.application.profile.must_change,
            )
            for i, m in meant.items()
            if i in taken
        ]
        without = [
            f"{m.account.login} in {m.application.name}"
            for i, m in meant.items()
            if i not in taken and takes_credential(m.account, m.application)
        ]
        return slips, without


async def _meant(unit: UnitOfWork, who: Sequence[str], applications: Sequence[str]) -> list[_Meant]:
    """The accounts of some people in the applications that take a credential, in the order of the names."""
    there = await load_applications(unit)
    for name in applications:
        if name not in there or not there[name].can(Capability.CREDENTIAL):
            raise InvalidInput(
                f"{name} takes no credential."
                if name in there
                else f"There is no application {name}.",
                place="applications",
                remedy="Take one of: "
                + ", ".join(sorted(i for i, a in there.items() if a.can(Capability.CREDENTIAL))),
            )
    people = await people_named(unit, who)
    known = await unit.accounts.known([p.id for p in people.values()])
    wanted = set(applications) or {i for i, a in there.items() if a.can(Capability.CREDENTIAL)}
    return [
        _Meant(person, account, there[account.application_id])
        for person in {p.id: p for p in people.values()}.values()
        for account in sorted(known.accounts.get(person.id, ()), key=lambda a: a.application_id)
        if account.application_id in wanted and account.kind is AccountKind.PERSON
    ]
