"""What every connector must do, as checks that any connector can be put through.

``check`` runs them against a live application and says of each whether it holds, or why it is left
out: only because the application lacks a capability. See docs/guide/write-a-connector.md.
"""

from __future__ import annotations

import uuid
from collections.abc import Awaitable, Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from yugum.core.accounts import AccountState, Observed
from yugum.core.actions import NO_ARGUMENTS, Action, Arguments
from yugum.core.actions.registry import is_fulfilled
from yugum.core.applications import Capability
from yugum.core.invitations import CAPABILITY, duties_of, invited_at
from yugum.errors import ApplicationRejected, CannotDo
from yugum.ports.connectors import AccountRef, Connector

SECRET = "Canary-" + "correct-horse-battery"


@dataclass(frozen=True, slots=True, kw_only=True)
class Sample:
    """What the application has for the checks: a group, a license with a free seat, attributes that
    take any text (an address where they are called mail) and can be emptied."""

    group: str = ""
    license: str = ""
    attributes: tuple[str, ...] = ()
    odd_login: str = "o'brien-{}\"x"


@dataclass(frozen=True, slots=True)
class Outcome:
    """One check: ``problem`` is empty when it holds, ``left_out`` says which capability lacks."""

    name: str
    problem: str = ""
    left_out: str = ""


class _Failed(Exception):
    """A check does not hold."""


class Contract:
    """The checks of one connector; each makes the accounts it needs."""

    def __init__(self, connector: Connector, sample: Sample) -> None:
        self._connector = connector
        self._sample = sample
        self._can: frozenset[Capability] = frozenset()

    async def run(self) -> list[Outcome]:
        found = await self._connector.discover()
        again = await self._connector.discover()
        self._can = found.capabilities
        outcomes = [
            Outcome(
                "discovery says the same twice",
                "" if found.capabilities == again.capabilities else "it differs",
            )
        ]
        checks: list[tuple[str, Capability | None, Callable[[], Awaitable[None]]]] = [
            ("a new account is seen, by its id and by ours", None, self._created),
            ("a login that is taken is refused", None, self._taken),
            ("an account can be made closed, to be opened later", SUS, self._made_closed),
            ("a new name is seen, and the old one is not", Capability.RENAME, self._renamed),
            ("an account that is not there is not seen", None, self._unknown),
            ("an entitlement is held once, however often granted", ENT, self._granted),
            ("an unknown entitlement is refused", ENT, self._unknown_group),
            ("a seat is taken once and freed", Capability.SEATS, self._seat),
            ("an attribute is set and emptied, and the others stay", None, self._attributes),
            ("a credential is nowhere told", Capability.CREDENTIAL, self._credential),
            ("a trial sign-in leaves the account as it was", Capability.TRIAL, self._tried),
            ("a duty is asked for, and let go", self._a_duty(), self._required),
            ("a cut-off ends every way in, and can be repeated", SUS, self._cut_off),
            ("a closed account comes back suspended", SUS, self._closed),
            ("a purged account is gone, however often purged", Capability.PURGE, self._purged),
            ("every account is read exactly once", None, self._read),
        ]
        if Capability.INVITE in self._can:
            checks.append(
                ("whoever is new is invited, and no more once cut off", None, self._invited)
            )
        for name, needs, call in checks:
            if needs is not None and needs not in self._can:
                outcomes.append(Outcome(name, left_out=needs.value))
                continue
            try:
                await call()
            except _Failed as error:
                outcomes.append(Outcome(name, str(error)))
            except Exception as error:  # noqa: BLE001 - whatever a connector raises here is its failure
                outcomes.append(Outcome(name, f"{type(error).__name__}: {error}"))
            else:
                outcomes.append(Outcome(name))
        return outcomes

    # --- helpers -----------------------------------------------------------------------------

    async def _make(
        self, *, closed: bool = False, attributes: Mapping[str, str] | None = None
    ) -> AccountRef:
        key = str(uuid.uuid4())
        login = self._sample.odd_login.format(key[:8])
        arguments = Arguments(
            login=login,
            display_name="Contract",
            family_name="Contract",
            closed=closed,
            attributes=attributes or {},
            mail=f"{key[:8]}@example.org" if Capability.INVITE in self._can else "",
        )
        did = await self._connector.act(Action.CREATE, AccountRef(key, "", login), "", arguments)
        return AccountRef(key, did.external_id, login)

    async def _see(self, ref: AccountRef) -> Observed:
        seen = await self._connector.observe(ref)
        if seen is None:
            raise _Failed("the account is not seen any more")
        return seen

    async def _do(
        self,
        action: Action,
        ref: AccountRef,
        item: str = "",
        arguments: Arguments = NO_ARGUMENTS,
    ) -> None:
        await self._connector.act(action, ref, item, arguments)

    # --- checks ------------------------------------------------------------------------------

    async def _created(self) -> None:
        ref = await self._make()
        seen = await self._see(ref)
        _must(seen.state is AccountState.ACTIVE, f"a new account is {seen.state}")
        _must(seen.login == ref.login, f"its login is {seen.login}")
        ours = await self._see(AccountRef(ref.account_id, "", ref.login))
        _must(ours.correlation == ref.account_id, "after a crash it cannot be told whose it is")

    async def _taken(self) -> None:
        ref = await self._make()
        other = AccountRef(str(uuid.uuid4()), "", ref.login)
        arguments = Arguments(login=ref.login, display_name="Other", family_name="Other")
        try:
            await self._connector.act(Action.CREATE, other, "", arguments)
        except ApplicationRejected:
            return
        raise _Failed("a second account of that login was made")

    async def _made_closed(self) -> None:
        ref = await self._make(closed=True)
        seen = await self._see(ref)
        _must(seen.state is AccountState.SUSPENDED, f"it is made {seen.state}")
        await self._do(Action.RESUME, ref)
        _must((await self._see(ref)).state is AccountState.ACTIVE, "it is not opened")

    async def _renamed(self) -> None:
        ref = await self._make()
        login = f"new-{uuid.uuid4().hex[:8]}"
        for _ in range(2):
            await self._do(Action.RENAME, ref, login, Arguments(display_name="Contract New"))
        seen = await self._see(ref)
        _must(seen.login == login, f"its login is {seen.login}")
        _must(seen.external_id == ref.external_id, "it is another account now")
        old = await self._connector.observe(AccountRef(str(uuid.uuid4()), "", ref.login))
        _must(old is None, "it is seen under the old name still")

    async def _unknown(self) -> None:
        nobody = AccountRef(str(uuid.uuid4()), "", f"nobody-{uuid.uuid4().hex[:8]}")
        _must(await self._connector.observe(nobody) is None, "somebody else was seen")

    async def _granted(self) -> None:
        ref, group = await self._make(), self._sample.group
        for _ in range(2):
            await self._do(Action.GRANT, ref, group)
        held = (await self._see(ref)).entitlements
        _must(held == {group}, f"held is {sorted(held)}")
        for _ in range(2):
            await self._do(Action.REVOKE, ref, group)
        _must(not (await self._see(ref)).entitlements, "it is held still")

    async def _unknown_group(self) -> None:
        ref = await self._make()
        try:
            await self._do(Action.GRANT, ref, "no such group; DROP TABLE x")
        except ApplicationRejected:
            _must(not (await self._see(ref)).entitlements, "something was granted all the same")
            return
        raise _Failed("it was taken as granted")

    async def _seat(self) -> None:
        ref, license = await self._make(), self._sample.license
        await self._do(Action.TAKE_SEAT, ref, license)
        _must((await self._see(ref)).seats == frozenset({license}), "no seat is seen")
        for _ in range(2):
            await self._do(Action.FREE_SEAT, ref, license)
        _must(not (await self._see(ref)).seats, "the seat is held still")

    async def _attributes(self) -> None:
        known = (await self._connector.discover()).attributes
        names = self._sample.attributes
        _must(set(names) <= set(known), f"it does not say that it has {set(names) - set(known)}")
        said = {n: _value(n, 1) for n in names}
        ref = await self._make(attributes=said)
        await self._shows(ref, said)
        for name in names:
            for value in (_value(name, 2), "", _value(name, 3)):
                said[name] = value
                await self._do(Action.UPDATE, ref, name, Arguments(value=value))
                await self._shows(ref, said)

    async def _shows(self, ref: AccountRef, said: Mapping[str, str]) -> None:
        shown = (await self._see(ref)).settings
        wrong = {n: shown.get(n, "") for n, v in said.items() if shown.get(n, "") != v}
        _must(not wrong, f"instead of {dict(said)} there is {wrong}")

    async def _credential(self) -> None:
        ref = await self._make()
        did = await self._connector.act(Action.SET_CREDENTIAL, ref, "", NO_ARGUMENTS, SECRET)
        _must(SECRET not in repr(did), "the receipt tells the secret")
        _must(SECRET not in repr(await self._see(ref)), "the secret is seen")
        try:
            did = await self._connector.act(Action.LOCK, ref, "", NO_ARGUMENTS)
        except CannotDo:
            return
        seen = await self._see(ref)
        shut = (seen.state, seen.sessions, seen.keys) == (AccountState.ACTIVE, 0, 0)
        _must(shut and not did.suspended, f"locked it is {seen.state}, {seen.sessions} sessions")

    async def _tried(self) -> None:
        ref = await self._make(closed=True)
        for closed, state in ((True, AccountState.SUSPENDED), (False, AccountState.ACTIVE)):
            if not closed:
                await self._do(Action.RESUME, ref)
            for _ in range(2):
                said = Arguments(closed=closed)
                did = await self._connector.act(Action.TRY_SIGN_IN, ref, "", said, SECRET)
                _must(SECRET not in repr(did), "the receipt tells the secret")
            seen = await self._see(ref)
            _must((seen.state, seen.sessions) == (state, 0), f"it is {seen.state} afterwards")

    def _a_duty(self) -> Capability:
        """One that the application knows, if it knows any."""
        mine = (c for c in CAPABILITY.values() if c in self._can)
        return next(mine, Capability.DUTY_PASSWORD)

    async def _required(self) -> None:
        ref = await self._make()
        duty = next(d for d, c in CAPABILITY.items() if c is self._a_duty())
        for asked in (True, False):
            said = Arguments(value="to do" if asked else "")
            for _ in range(2):
                await self._do(Action.REQUIRE, ref, duty.value, said)
            shown = duties_of(await self._see(ref))
            _must((duty in shown) is asked, f"to do is {', '.join(shown) or 'nothing'}")

    async def _invited(self) -> None:
        ref = await self._make()
        _must(invited_at(await self._see(ref)) is not None, "no invitation is seen")
        await self._do(Action.INVITE, ref)
        await self._do(Action.CUT_OFF, ref)
        _must(invited_at(await self._see(ref)) is None, "the invitation is open still")

    async def _cut_off(self) -> None:
        ref = await self._make()
        for _ in range(2):
            await self._do(Action.CUT_OFF, ref)
        seen = await self._see(ref)
        _must(
            is_fulfilled(Action.CUT_OFF, "", seen, NO_ARGUMENTS),
            f"it is {seen.state}, {seen.sessions} sessions",
        )
        await self._do(Action.RESUME, ref)
        _must((await self._see(ref)).state is AccountState.ACTIVE, "it does not come back")

    async def _closed(self) -> None:
        ref = await self._make()
        await self._do(Action.CUT_OFF, ref)
        until = (datetime.now(UTC) + timedelta(days=30)).replace(microsecond=0)
        parks = Capability.RESTORE not in self._can
        if parks:
            await self._do(Action.PARK, ref, arguments=Arguments(until=until.isoformat()))
        else:
            await self._do(Action.DELETE, ref)
        gone = await self._see(ref)
        _must(gone.state is AccountState.DELETED, f"it is {gone.state}")
        _must(gone.recoverable_until is not None, "how long it can come back is not told")
        _must(not parks or gone.recoverable_until == until, f"until {gone.recoverable_until}")
        await self._do(Action.RESTORE, ref)
        back = await self._see(ref)
        _must(back.state is AccountState.SUSPENDED, f"it comes back {back.state}")

    async def _purged(self) -> None:
        ref = await self._make()
        await self._do(Action.CUT_OFF, ref)
        if Capability.RESTORE in self._can:
            await self._do(Action.DELETE, ref)
        await self._do(Action.PURGE, ref)
        _must(await self._connector.observe(ref) is None, "it is seen still")

    async def _read(self) -> None:
        ref = await self._make()
        rows = [r async for page in self._connector.read() for r in page]
        ids = [r.external_id for r in rows]
        _must(ids.count(ref.external_id) == 1, f"the new one {ids.count(ref.external_id)} times")
        _must(len(ids) == len(set(ids)), "one is read twice")


ENT = Capability.ENTITLEMENTS
SUS = Capability.SUSPEND


def _must(holds: bool, otherwise: str) -> None:
    if not holds:
        raise _Failed(otherwise)


async def check(connector: Connector, sample: Sample) -> list[Outcome]:
    """Put a connector through every check; it makes and leaves behind a few accounts."""
    return await Contract(connector, sample).run()


def _value(name: str, number: int) -> str:
    if "mail" in name.lower():
        return f"contract{number}-{uuid.uuid4().hex[:6]}@example.org"
    return (
        f"+00 555 010{number}" if "phone" in name.lower() or name == "mobile" else f"Text {number}"
    )
