"""What a lane knows of its account: what it last saw, and the calls by which it looks and acts."""

from __future__ import annotations

import base64
import secrets
from collections.abc import Awaitable, Callable, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import TypeVar

from yugum.core.accounts import Account, AccountState, Asset, Observed
from yugum.core.actions import Done
from yugum.core.actions.registry import ACTIONS, is_fulfilled
from yugum.core.applications import Application, Capability
from yugum.core.dockets import Step, StepState
from yugum.core.passwords import make
from yugum.core.projection import project
from yugum.core.windows import recoverable_until
from yugum.engine.work.counting import counted
from yugum.engine.work.permits import Turn, priority
from yugum.engine.work.tools import LaneTools
from yugum.ports.connectors import AccountRef, Connector, Mentioning

T = TypeVar("T")
NEVER = datetime(1970, 1, 1, tzinfo=UTC)


class Sight:
    """One account in one application, as the lane that works on it sees it."""

    def __init__(
        self,
        tools: LaneTools,
        application: Application,
        epoch: int,
        first: Step,
        account: Account | None,
    ) -> None:
        self.application = application
        self.epoch = epoch
        self._tools = tools
        self._account = account or Account(
            id=first.account_id,
            application_id=application.id,
            person_id=first.subject_id,
            state=AccountState.PURGED,
        )
        self._known = account is not None
        self._fresh: Observed | None = None
        self._is_fresh = False
        self._connector: Connector | None = None

    @property
    def account(self) -> Account | None:
        """The account to be stored; None while the application has shown none."""
        return self._account if self._known else None

    async def look(self, step: Step, *, after: bool = False) -> Observed | None:
        """What the application shows; the last read-back serves where it says enough."""
        spec = ACTIONS[step.action]
        if self._is_fresh and not after and not (spec.lists_assets or spec.reads_mention):
            return self._with_bookkeeping(step, self._fresh, after)
        if not spec.readable:
            return None
        ref = self._ref(step)
        source = step.arguments.from_external_id
        if source:
            ref = AccountRef("", source, "")
        connector = await self._open()
        seen = await self._call(
            step,
            lambda: connector.observe(ref, assets=spec.lists_assets),
            Turn.READ_BACK if after else Turn.LOOK,
        )
        if not source:
            if seen is not None and not ref.external_id and seen.correlation != step.account_id:
                seen = None  # somebody else's account of that login: not ours to see
            self._fresh, self._is_fresh = seen, True
        if spec.reads_mention and seen is not None:
            seen = replace(seen, mentions=await self._mention(step, after))
        return self._with_bookkeeping(step, seen, after)

    async def _mention(self, step: Step, after: bool) -> dict[str, str]:
        """The text of the place that a step is about, by its key; nothing where it is gone."""
        connector = await self._open()
        if not isinstance(connector, Mentioning):
            return {}
        turn = Turn.READ_BACK if after else Turn.LOOK
        found = await self._call(step, lambda: connector.mention(step.arguments.place), turn)
        return {} if found is None else {step.item: found.text}

    async def act(self, step: Step) -> tuple[Done, bytes | None]:
        """Have the step's action carried out, and the credential to be kept, encrypted."""
        spec, arguments, kept, secret = ACTIONS[step.action], step.arguments, None, ""
        if step.urgent:
            arguments = replace(arguments, urgent=True)
        if spec.secret and step.state in (StepState.INTENT, StepState.SETTLING):
            arguments = replace(arguments, again=True)
        if spec.told_until:
            until = recoverable_until(await self._tools.clock.now(), self.application)
            arguments = replace(arguments, until=until.isoformat())
        if spec.secret:
            profile = self.application.profile
            if arguments.sealed:
                secret = self._tools.vault.open(base64.b64decode(arguments.sealed))
                arguments = replace(arguments, sealed="")
            else:
                secret = make(profile.password_length, profile.password_needs, secrets.choice)
                kept = None if spec.throwaway else self._tools.vault.seal(secret)
        if spec.seats and not self.application.can(Capability.SEATS):
            return Done(kept_by="Yugum"), None
        connector = await self._open()

        async def act() -> Done:
            ref = self._ref(step)
            if not step.moving:
                return await connector.act(step.action, ref, step.item, arguments, secret)
            async with counted(self._tools.database, step.id):
                return await connector.act(step.action, ref, step.item, arguments, secret)

        did = await self._call(step, act, Turn.ACT)
        if did.external_id:
            self._account = replace(
                self._account,
                external_id=did.external_id,
                login=did.login,
                state=AccountState.ACTIVE,
            )
        self._is_fresh = False
        return did, kept if spec.gave(did) else None

    @property
    def seats(self) -> frozenset[str]:
        """The licenses of which the account has a seat by now."""
        return self._account.seats

    def is_fulfilled(self, step: Step, seen: Observed | None) -> bool:
        """Whether what is seen leaves nothing (more) to do."""
        only = step.arguments.only
        if only is not None and seen is not None and seen.assets is not None:
            left = tuple(a for a in seen.assets if a.external_id in only)
            seen = replace(seen, assets=left)
        return is_fulfilled(step.action, step.item, seen, step.arguments)

    def moving(self, step: Step, seen: Observed | None) -> Sequence[Asset]:
        """What a handover is about to move, as the application shows it."""
        if not ACTIONS[step.action].lists_assets or seen is None:
            return ()
        only = step.arguments.only
        return [
            a
            for a in seen.assets or ()
            if a.kind == step.item and (only is None or a.external_id in only)
        ]

    async def take_in(self, step: Step, seen: Observed | None) -> Sequence[str]:
        """Let the account be what was seen of it; returns the licenses whose seats came free by it."""
        before = self._account
        if ACTIONS[step.action].readable and not step.arguments.from_external_id:
            at = before.seen_at or NEVER
            if seen is not None and seen.state is AccountState.DELETED:
                at = await self._tools.clock.now()  # its window may have to be counted from now
            self._account = project(before, seen, at, application=self.application)
            self._known = self._known or bool(self._account.external_id)
        return sorted(before.seats - self._account.seats)

    def _ref(self, step: Step) -> AccountRef:
        login = self._account.login or step.arguments.login
        # What is not there has no id there either; a group's place in our books has one of ours.
        gone = self._account.state is AccountState.PURGED
        external_id = "" if gone else self._account.external_id
        return AccountRef(step.account_id, external_id, login, self._account.kind)

    async def _open(self) -> Connector:
        if self._connector is None:
            self._connector = await self._tools.connectors.of(self.application.id)
        return self._connector

    def _with_bookkeeping(self, step: Step, seen: Observed | None, after: bool) -> Observed | None:
        """Seats of an application that knows none are kept by Yugum alone."""
        if seen is None or seen.seats is not None:
            return seen
        seats, moved = self._account.seats, ACTIONS[step.action].seats if after else 0
        if moved > 0:
            seats = seats | {step.item}
        if moved < 0:
            seats = seats - {step.item}
        return replace(seen, seats=seats)

    async def _call(self, step: Step, call: Callable[[], Awaitable[T]], turn: Turn) -> T:
        place = priority(step.phase, turn, urgent=step.urgent)
        async with self._tools.permits(self.application.id).hold(place):
            connector = await self._open()
            self._tools.check(step.subject_id, self.epoch, connector.call_timeout)
            return await call()
