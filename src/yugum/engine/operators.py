"""Who works with Yugum: operators, one-time links for them, and integrations with who answers for them."""

from __future__ import annotations

import secrets
import uuid
from collections.abc import Collection, Sequence
from dataclasses import replace
from datetime import datetime

from anyascii import anyascii
from precis_i18n import get_profile

from yugum.core.documents import Document
from yugum.core.operators import RANK, OperatorRole
from yugum.engine.access import Operator, operator_of
from yugum.engine.events import make_event
from yugum.engine.hashing import hashed
from yugum.engine.telling import tell_operator
from yugum.errors import Conflict, Forbidden, InvalidInput, NotFound
from yugum.ports.clock import Clock
from yugum.ports.operators import ChosenOperators, Integration, OperatorRecord
from yugum.ports.pages import ListPage
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork
from yugum.settings import Settings

USER_NAME = get_profile("UsernameCaseMapped")


class Operators:
    def __init__(self, database: Database, clock: Clock, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._settings = settings

    async def page(
        self, cursor: str | None, limit: int, chosen: ChosenOperators
    ) -> ListPage[OperatorRecord]:
        async with self._database.unit() as unit:
            return await unit.operators.page(cursor, limit, chosen)

    async def integrations(
        self, cursor: str | None, limit: int, chosen: ChosenOperators
    ) -> ListPage[Integration]:
        """Programs, by login.

        Raises:
            NotFound: nobody has the login of whoever is to answer for them.
        """
        async with self._database.unit() as unit:
            if chosen.owner and await unit.operators.by_login(chosen.owner) is None:
                raise NotFound(
                    f"There is no operator {chosen.owner}.",
                    place="owner",
                    remedy="See: yugum integrations list.",
                )
            return await unit.operators.integrations(cursor, limit, chosen)

    async def add(
        self, login: str, name: str, role: OperatorRole, author: str, *, person: str = ""
    ) -> tuple[Operator, str]:
        """A new operator and the token of their one-time sign-in link."""
        now = await self._clock.now()
        token = secrets.token_urlsafe(24)
        async with self._database.unit() as unit:
            await _must_stand_apart(unit, login)
            person_id = (await unit.people.resolve(person)).id if person else None
            record = OperatorRecord(
                id=str(uuid.uuid4()), login=login, name=name, role=role, person_id=person_id
            )
            await unit.operators.put(record)
            await unit.operators.add_link(hashed(token), record.id, self._settings.link_hours)
            payload = {"login": login, "role": role.value}
            await unit.audit.add([make_event(now, author, "operator.added", record.id, payload)])
        return operator_of(record), token

    async def change(
        self, operator_id: str, *, role: OperatorRole | None, active: bool | None, author: str
    ) -> OperatorRecord:
        """Change role or standing; the last active administrator keeps both.

        Who is disabled has lost every session, token and link for good, and others answer for the
        integrations.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            before = await unit.operators.get(operator_id)
            if before.owner_id:
                raise NotFound(
                    f"{before.login} is an integration, no operator.",
                    remedy="End it and add another: yugum integrations end, add.",
                )
            after = replace(
                before,
                role=before.role if role is None else role,
                active=before.active if active is None else active,
            )
            others = [o for o in await unit.operators.administrators() if o.id != operator_id]
            if _administers(before) and not _administers(after) and not others:
                raise InvalidInput(
                    "This is the last administrator.",
                    place="role",
                    remedy="Make somebody else one first.",
                )
            await unit.operators.put(after)
            if before.active and not after.active:
                await disable(unit, [after], author, self._vault, now)
            else:  # nobody answers for what has more rights than oneself
                more = [
                    o
                    for o in await unit.operators.owned([operator_id])
                    if RANK[o.role] > RANK[after.role]
                ]
                await _find_heirs(unit, more, {operator_id}, (), author, self._vault, now)
            payload: Document = {"role": after.role.value, "active": after.active}
            event = make_event(now, author, "operator.changed", operator_id, payload)
            await unit.audit.add([event])
            text = f"Your role in Yugum is {after.role.value} now."
            if before.active and not after.active:
                text = "You do not work with Yugum any more."
            elif not before.active and after.active:
                text = "You work with Yugum again."
            elif before.role is after.role:
                return after
            subject = "Yugum: your access has changed"
            await tell_operator(unit, after.person_id, subject, text, self._vault, now)
            return after

    async def link(self, login: str, author: str) -> str:
        """The token of a new one-time sign-in link; earlier ones end.

        Raises:
            NotFound: there is no operator of that login.
            Conflict: it is an integration or disabled: no link would let anybody in.
        """
        now = await self._clock.now()
        token = secrets.token_urlsafe(24)
        async with self._database.unit() as unit:
            found = await unit.operators.by_login(login)
            if found is None:
                raise NotFound(f"There is no operator {login}.", remedy="yugum operators list")
            if found.owner_id:
                raise Conflict(
                    f"{login} is an integration, which signs in with tokens only.",
                    remedy="See: yugum tokens add --integration.",
                )
            if not found.active:
                raise Conflict(f"{login} is disabled.", remedy="Enable the operator first.")
            await unit.operators.add_link(hashed(token), found.id, self._settings.link_hours)
            await unit.audit.add([make_event(now, author, "operator.link", found.id, {})])
            text = "A one-time sign-in link was made for you. If you did not ask for it, say so."
            subject = "Yugum: a sign-in link was made for you"
            await tell_operator(unit, found.person_id, subject, text, self._vault, now)
        return token

    async def add_integration(
        self, login: str, name: str, role: OperatorRole, owner: Operator
    ) -> Integration:
        """A program that works with Yugum by tokens of its own; whoever adds it answers for it.

        Raises:
            InvalidInput: it would have more rights than who answers for it.
            Conflict: the login is another operator's.
        """
        if not owner.may(role):
            raise InvalidInput(
                "An integration cannot have more rights than who answers for it.", place="role"
            )
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await _must_stand_apart(unit, login)
            made = OperatorRecord(
                id=str(uuid.uuid4()), login=login, name=name, role=role, owner_id=owner.id
            )
            await unit.operators.put(made)
            payload = {"login": login, "role": role.value, "owner": owner.login}
            event = make_event(now, owner.login, "integration.added", made.id, payload)
            await unit.audit.add([event])
            return _shown(made, owner.login)

    async def pass_on(self, login: str, to: str, author: Operator) -> Integration:
        """Another operator answers for an integration.

        Raises:
            NotFound: there is no such integration, or no such operator.
            Forbidden: it is neither one's own, nor is one an administrator.
            InvalidInput: who is to answer for it has less rights than it.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            found = await _integration(unit, login, author)
            heir = await unit.operators.by_login(to)
            if heir is None or heir.owner_id or not heir.active:
                raise NotFound(
                    f"There is no active operator {to}.",
                    place="owner",
                    remedy="See: yugum operators list.",
                )
            if RANK[heir.role] < RANK[found.role]:
                raise InvalidInput(
                    f"{to} has less rights than {login}, and could not answer for it.",
                    place="owner",
                )
            await _pass_on(unit, found, heir, author.login, self._vault, now)
            return _shown(found, heir.login)

    async def end_integration(self, login: str, author: Operator) -> None:
        """An integration does not work with Yugum any more.

        Raises:
            NotFound: there is no such integration.
            Forbidden: somebody else answers for it, and one is no administrator.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            found = await _integration(unit, login, author)
            await _end(unit, found, author.login, now)


async def _integration(unit: UnitOfWork, login: str, author: Operator) -> OperatorRecord:
    """One that the author answers for, or any for an administrator."""
    found = await unit.operators.by_login(login)
    if found is None or not found.owner_id or not found.active:
        raise NotFound(f"There is no integration {login}.", remedy="See: yugum integrations list.")
    if found.owner_id != author.id and not author.may(OperatorRole.ADMINISTRATOR):
        raise Forbidden("Somebody else answers for it.", remedy="Ask an administrator.")
    return found


async def disable(
    unit: UnitOfWork,
    ended: Sequence[OperatorRecord],
    author: str,
    vault: Vault,
    now: datetime,
    heirs: Sequence[OperatorRecord] = (),
) -> None:
    """End what operators can do here; the first of ``heirs`` who may answers for their integrations.

    Without one it is an administrator. Where there is nobody, they end with who answered for them:
    nothing goes on for which nobody answers.
    """
    ids = {o.id for o in ended}
    await unit.operators.disable(sorted(ids))
    left = await unit.operators.owned(sorted(ids))
    await _find_heirs(unit, left, ids, heirs, author, vault, now)


async def _find_heirs(
    unit: UnitOfWork,
    left: Sequence[OperatorRecord],
    less: Collection[str],
    heirs: Sequence[OperatorRecord],
    author: str,
    vault: Vault,
    now: datetime,
) -> None:
    able = [*heirs, *await unit.operators.administrators()]
    able = [o for o in able if o.active and not o.owner_id and o.id not in less]
    for one in left:
        heir = next((o for o in able if RANK[o.role] >= RANK[one.role]), None)
        if heir is not None:
            await _pass_on(unit, one, heir, author, vault, now)
            continue
        await _end(unit, one, author, now)


async def _end(unit: UnitOfWork, one: OperatorRecord, author: str, now: datetime) -> None:
    """An integration works no more; its tokens are gone."""
    await unit.operators.disable([one.id])
    event = make_event(now, author, "integration.ended", one.id, {"login": one.login})
    await unit.audit.add([event])


async def _pass_on(
    unit: UnitOfWork,
    one: OperatorRecord,
    heir: OperatorRecord,
    author: str,
    vault: Vault,
    now: datetime,
) -> None:
    await unit.operators.pass_on(one.id, heir.id)
    payload = {"login": one.login, "owner": heir.login}
    await unit.audit.add([make_event(now, author, "integration.passed-on", one.id, payload)])
    text = (
        f"You answer for the integration {one.login} ({one.name}) from now on. Its tokens stay "
        "good; revoke those that nobody needs any more, or end it."
    )
    subject = f"Yugum: you answer for the integration {one.login}"
    await tell_operator(unit, heir.person_id, subject, text, vault, now)


async def _must_stand_apart(unit: UnitOfWork, login: str) -> None:
    """That nobody takes a login for another one.

    Raises:
        InvalidInput: it is no user name (RFC 8265 3.3).
        Conflict: it looks like one that there is.
    """
    face = face_of(login)
    for other in await unit.operators.logins():
        if face == _face_or_itself(other):
            raise Conflict(
                f"{login} is, or looks like, the operator {other} that there is already.",
                place="login",
                remedy="Choose another login.",
            )


def face_of(login: str) -> str:
    """What a login looks like: its letters without case, width and script.

    Raises:
        InvalidInput: it is no user name (RFC 8265 3.3, *UsernameCaseMapped*).
    """
    try:
        return anyascii(USER_NAME.enforce(login)).casefold()
    except UnicodeError as error:
        raise InvalidInput(
            "A login has letters, digits and signs of one direction, and no spaces (RFC 8265).",
            place="login",
        ) from error


def _face_or_itself(login: str) -> str:
    try:
        return face_of(login)
    except InvalidInput:  # of before this was asked for
        return login


def _shown(record: OperatorRecord, owner: str) -> Integration:
    return Integration(
        id=record.id,
        login=record.login,
        name=record.name,
        role=record.role,
        active=record.active,
        owner=owner,
    )


def _administers(operator: OperatorRecord) -> bool:
    return operator.active and operator.role is OperatorRole.ADMINISTRATOR
