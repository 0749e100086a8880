"""Lanes: the steps of one account in one application, run one after the other.

A step observes; if it is so already, records that; else writes the intent, acts, reads back and
writes the receipt. Lanes are parallel: one that fails or waits does not hold up another.
"""

from __future__ import annotations

import base64
import secrets
import time
from collections.abc import Awaitable, Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any, TypeVar

from yugum.core.accounts import Account, AccountState, HoldingKind, Observed
from yugum.core.actions import ACTIONS, TAKING, Action, Phase, Settle
from yugum.core.applications import Application, Capability
from yugum.core.decisions import LedgerKey, Origin
from yugum.core.dockets import Step, StepState
from yugum.core.effects import facet, fulfilled, needs_assets
from yugum.core.passwords import make
from yugum.core.projection import project
from yugum.core.windows import recoverable_until
from yugum.engine.journal import Journal
from yugum.engine.permits import Permits, Turn, priority
from yugum.engine.precedence import Lookback, Precedence
from yugum.errors import ApplicationError, LeaseLost, RateLimited
from yugum.ports import AccountRef, Clock, Connector, Connectors, Database, Entry, Vault

T = TypeVar("T")

STRUCTURAL = frozenset(
    {Action.CREATE, Action.RESTORE, Action.REOPEN, Action.RESUME, Action.CUT_OFF}
)
"""When one of these cannot be done, the rest of the lane makes no sense."""
ENDINGS = frozenset({Action.DELETE, Action.PARK, Action.ARCHIVE, Action.PURGE})
"""These wait until everything before them in the lane is settled."""
BACKOFF_LIMIT = 60.0
SETTLE_TRIES = 8
STOPPED_SECONDS = 2.0
CEILING_SECONDS = 60.0
NEVER = datetime(1970, 1, 1, tzinfo=UTC)


@dataclass(frozen=True, slots=True, kw_only=True)
class LaneTools:
    """What every lane of a worker shares. ``check`` raises LeaseLost when too little time is left."""

    database: Database
    connectors: Connectors
    clock: Clock
    vault: Vault
    journal: Journal
    permits: Callable[[str], Permits]
    precedence: Precedence
    lookback: Lookback
    check: Callable[[str, int, float], None]
    retry_base: float
    on_intent: Callable[[], None]
    stopped: Callable[[], str]
    pause: Callable[[str, float], Awaitable[None]]
    ceiling: Callable[[Application], Awaitable[bool]]


class Lane:
    """One account's steps of one docket."""

    def __init__(
        self,
        tools: LaneTools,
        application: Application,
        epoch: int,
        steps: Sequence[Step],
        account: Account | None,
    ) -> None:
        self._tools = tools
        self._application = application
        self._epoch = epoch
        self._steps = steps
        first = steps[0]
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
        self._settled = True
        self.open = True
        """Whether later steps of this account may follow in this lane."""
        self.cuts = self._first = self._uncut = steps[0].phase is Phase.SECURE
        if self._first:
            tools.precedence.enter()
            tools.lookback.enter()

    async def run(self) -> None:
        """Run until the lane is done, waits or is stuck; problems end up in the journal."""
        try:
            self.open = await self._run()
        finally:
            self._cut()
            self._secured()

    async def go_on(self, steps: Sequence[Step]) -> None:
        """Run more steps of the account after those before, with what these left behind."""
        self._steps = steps
        await self.run()

    def _cut(self) -> None:
        """The lane's cut-off is made, or is not to be had now."""
        if self._uncut:
            self._uncut = False
            self._tools.lookback.leave()
            self._tools.precedence.progress()

    def _secured(self) -> None:
        """The lane's cut-off is behind it, or is not to be had now."""
        if self._first:
            self._first = False
            self._tools.precedence.leave()

    async def _run(self) -> bool:
        for step in self._steps:
            if step.phase is not Phase.SECURE:
                self._secured()
                await self._tools.precedence.wait()
                if why := self._tools.stopped():
                    await self._hold_back(step, "stopped", why, STOPPED_SECONDS)
                    return False
            if step.action in ENDINGS and not self._settled:
                return False
            if step.state is StepState.ATTENTION:  # a person has to say how it goes on
                outcome = StepState.ATTENTION
            else:
                outcome = await self._step(step)
            if outcome is StepState.DONE:
                continue
            self._settled = False
            if outcome in (StepState.WAITING, StepState.ATTENTION) and (
                step.action not in STRUCTURAL
            ):
                continue
            return False
        return True

    async def _step(self, step: Step) -> StepState:
        began = time.perf_counter()
        acted = step.state is StepState.INTENT
        try:
            seen = await self._look(step)
            found = facet(step.action, step.item, seen)
            if step.state in (StepState.INTENT, StepState.SETTLING):
                return await self._settle(step, seen, found, began)
            if self._fulfilled(step, seen):
                return await self._receipt(step, seen, "already", found, {}, began)
            if step.action is Action.TAKE_SEAT and (place := await self._claim(step)):
                return await self._wait_for_seat(step, place, found)
            if step.action in TAKING and not await self._tools.ceiling(self._application):
                limit = self._application.profile.ceiling_per_hour
                text = f"{limit} things were taken away this hour in {self._application.name}."
                return await self._hold_back(step, "ceiling", text, CEILING_SECONDS)
            await self._note(step, StepState.INTENT, found=found, attempts=step.attempts + 1)
            self._tools.on_intent()
            acted = True
            return await self._act(replace(step, attempts=step.attempts + 1), found, began)
        except LeaseLost:
            raise
        except ApplicationError as error:
            return await self._failed(step, error, acted)

    async def _settle(
        self, step: Step, seen: Observed | None, found: Mapping[str, Any], began: float
    ) -> StepState:
        """After a crash or a late effect: look first, act again only where that is right."""
        if self._fulfilled(step, seen):
            did = {"note": "seen after an interruption"}
            if step.action is Action.CREATE and seen is not None:
                did |= {"external_id": seen.external_id}
            return await self._receipt(step, seen, "done", None, did, began)
        if step.state is StepState.SETTLING:
            if step.attempts >= SETTLE_TRIES:
                problem = {
                    "code": "not-settled",
                    "text": f"{self._application.name} accepted it but does not show it.",
                    "remedy": "Look there; then retry the step or note it as done by hand.",
                }
                await self._note(step, StepState.ATTENTION, problem=problem)
                return StepState.ATTENTION
            await self._settling(step)
            return StepState.SETTLING
        if ACTIONS[step.action].settle is Settle.ASK:
            problem = {"code": "unclear", "text": "It is not known whether this was done."}
            await self._note(step, StepState.ATTENTION, problem=problem)
            return StepState.ATTENTION
        if step.action is Action.TAKE_SEAT and (place := await self._claim(step)):
            return await self._wait_for_seat(step, place, found)
        return await self._act(step, None, began)

    async def _act(self, step: Step, found: Mapping[str, Any] | None, began: float) -> StepState:
        arguments = dict(step.arguments)
        secret = ""
        if step.action is Action.PARK:
            now = await self._tools.clock.now()
            arguments["until"] = recoverable_until(now, self._application).isoformat()
        if step.action is Action.SET_CREDENTIAL:
            profile = self._application.profile
            if sealed := arguments.pop("sealed", ""):
                secret = self._tools.vault.open(base64.b64decode(sealed))
            else:
                secret = make(profile.password_length, profile.password_needs, secrets.choice)
        if self._bookkeeping(step):
            did: Mapping[str, Any] = {"kept_by": "Yugum"}
        else:
            connector = await self._open()
            did = await self._call(
                step,
                lambda: connector.act(step.action, self._ref(step), step.item, arguments, secret),
                Turn.ACT,
            )
        if "task" in did:
            problem = {
                "code": "task",
                "text": f"A task for the owner of {self._application.name} is open.",
                "remedy": f"They report it done or refuse it; call {self._application.contact}."
                if self._application.contact
                else "They report it done or refuse it.",
            }
            await self._note(step, StepState.INTENT, problem=problem, attempts=step.attempts)
            return StepState.WAITING
        if new_id := did.get("external_id"):
            login = str(did.get("login", ""))
            self._account = replace(
                self._account, external_id=str(new_id), login=login, state=AccountState.ACTIVE
            )
        self._is_fresh = False
        if step.action is Action.SET_CREDENTIAL:
            kept = None if "sealed" in step.arguments else self._tools.vault.seal(secret)
            return await self._receipt(step, None, "done", found, did, began, kept)
        if step.phase is Phase.SECURE:
            self._cut()
            await self._tools.lookback.wait()
        seen = await self._look(step, after=True)
        if not self._fulfilled(step, seen):
            await self._settling(step)
            return StepState.SETTLING
        return await self._receipt(step, seen, "done", found, did, began)

    # --- looking -----------------------------------------------------------------------------

    async def _open(self) -> Connector:
        if self._connector is None:
            self._connector = await self._tools.connectors.of(self._application.id)
        return self._connector

    def _ref(self, step: Step) -> AccountRef:
        login = self._account.login or str(step.arguments.get("login", ""))
        return AccountRef(step.account_id, self._account.external_id, login)

    async def _look(self, step: Step, *, after: bool = False) -> Observed | None:
        """What the application shows; the last read-back serves where it says enough."""
        if self._is_fresh and not after and not needs_assets(step.action):
            return self._with_bookkeeping(step, self._fresh, after)
        if step.action is Action.SET_CREDENTIAL:
            return None
        ref = self._ref(step)
        source = str(step.arguments.get("from_external_id", ""))
        if source:
            ref = AccountRef("", source, "")
        connector = await self._open()
        seen = await self._call(
            step,
            lambda: connector.observe(ref, assets=needs_assets(step.action)),
            Turn.READ_BACK if after else Turn.LOOK,
        )
        if not source:
            if seen is not None and not ref.external_id and seen.correlation != step.account_id:
                seen = None  # somebody else's account of that login: not ours to see
            self._fresh, self._is_fresh = seen, True
        return self._with_bookkeeping(step, seen, after)

    def _bookkeeping(self, step: Step) -> bool:
        """Seats of an application that knows none are kept by Yugum alone."""
        seat = step.action in (Action.TAKE_SEAT, Action.FREE_SEAT)
        return seat and not self._application.can(Capability.SEATS)

    def _with_bookkeeping(self, step: Step, seen: Observed | None, after: bool) -> Observed | None:
        if seen is None or seen.seats is not None:
            return seen
        seats = self._account.seats
        if after and step.action is Action.TAKE_SEAT:
            seats = seats | {step.item}
        if after and step.action is Action.FREE_SEAT:
            seats = seats - {step.item}
        return replace(seen, seats=seats)

    def _fulfilled(self, step: Step, seen: Observed | None) -> bool:
        only = step.arguments.get("only")
        if only is not None and seen is not None and seen.assets is not None:
            left = tuple(a for a in seen.assets if a.external_id in only)
            seen = replace(seen, assets=left)
        return fulfilled(step.action, step.item, seen, step.arguments)

    async def _call(self, step: Step, call: Callable[[], Awaitable[T]], turn: Turn) -> T:
        place = priority(step.phase, turn, urgent=step.urgent)
        async with self._tools.permits(self._application.id).hold(place):
            connector = await self._open()
            self._tools.check(step.subject_id, self._epoch, connector.call_timeout)
            return await call()

    # --- writing down ------------------------------------------------------------------------

    async def _note(
        self,
        step: Step,
        state: StepState,
        *,
        found: Mapping[str, Any] | None = None,
        problem: Mapping[str, Any] | None = None,
        retry: float | None = None,
        attempts: int | None = None,
    ) -> None:
        await self._tools.journal.write(
            Entry(
                step=step,
                epoch=self._epoch,
                state=state,
                attempts=step.attempts if attempts is None else attempts,
                retry_seconds=retry,
                problem=problem,
                found=found,
            )
        )

    async def _receipt(
        self,
        step: Step,
        seen: Observed | None,
        outcome: str,
        found: Mapping[str, Any] | None,
        did: Mapping[str, Any],
        began: float,
        credential: bytes | None = None,
    ) -> StepState:
        before = self._account
        if step.action is not Action.SET_CREDENTIAL and "from_external_id" not in step.arguments:
            at = before.seen_at or NEVER
            if seen is not None and seen.state is AccountState.DELETED:
                at = await self._tools.clock.now()  # its window may have to be counted from now
            self._account = project(before, seen, at, application=self._application)
            self._known = self._known or bool(self._account.external_id)
        freed = before.seats - self._account.seats
        await self._tools.journal.write(
            Entry(
                step=step,
                epoch=self._epoch,
                state=StepState.DONE,
                attempts=step.attempts,
                found=found,
                outcome=outcome,
                did=did,
                seen=facet(step.action, step.item, seen) if seen is not None else {},
                took_ms=round((time.perf_counter() - began) * 1000, 2),
                account=self._account if self._known else None,
                origins=self._origins(step),
                freed_licenses=sorted(freed),
                credential=credential,
            )
        )
        return StepState.DONE

    def _origins(self, step: Step) -> Sequence[tuple[LedgerKey, Origin | None]]:
        account = step.account_id
        match step.action:
            case Action.CREATE:
                return [((account, "account", ""), step.origin)]
            case Action.SET if step.origin is not None:
                gone = not step.arguments.get("value")
                return [((account, "setting", step.item), None if gone else step.origin)]
            case Action.GRANT:
                return [((account, HoldingKind.ENTITLEMENT.value, step.item), step.origin)]
            case Action.TAKE_SEAT:
                return [((account, HoldingKind.SEAT.value, step.item), step.origin)]
            case Action.REVOKE:
                return [((account, HoldingKind.ENTITLEMENT.value, step.item), None)]
            case Action.FREE_SEAT:
                return [((account, HoldingKind.SEAT.value, step.item), None)]
            case _:
                return []

    async def _failed(self, step: Step, error: ApplicationError, acted: bool) -> StepState:
        """Retryable: back off and stay in doubt if the effect may have happened."""
        attempts = step.attempts + (0 if acted and step.state is StepState.DUE else 1)
        problem = {"code": error.code, "text": error.message, "remedy": error.remedy}
        if not error.retryable:
            await self._note(step, StepState.ATTENTION, problem=problem, attempts=attempts)
            return StepState.ATTENTION
        if isinstance(error, RateLimited):
            wait = error.retry_after
            await self._tools.pause(self._application.id, wait)
        else:
            exponent = min(max(attempts - 1, 0), 10)
            wait = min(self._tools.retry_base * 2**exponent, BACKOFF_LIMIT)
        state = StepState.INTENT if acted else StepState.DUE
        await self._note(step, state, problem=problem, retry=wait, attempts=attempts)
        return state

    async def _hold_back(self, step: Step, code: str, text: str, seconds: float) -> StepState:
        """Leave a step as it is and look again later."""
        remedy = {
            "stopped": "It goes on by itself once the stop is lifted: yugum go-on.",
            "ceiling": "It goes on in the next hour, or when the application's ceiling is raised.",
        }[code]
        problem = {"code": code, "text": text, "remedy": remedy}
        await self._note(step, step.state, problem=problem, retry=seconds)
        return StepState.WAITING

    async def _settling(self, step: Step) -> None:
        problem = {"code": "settling", "text": "Accepted, not seen to have arrived yet."}
        await self._note(
            step,
            StepState.SETTLING,
            problem=problem,
            retry=min(self._tools.retry_base * 2**step.attempts, 30.0),
            attempts=step.attempts + 1,
        )

    # --- seats -------------------------------------------------------------------------------

    async def _claim(self, step: Step) -> int | None:
        """Claim the seat in a short transaction of its own, before any call."""
        now: datetime = await self._tools.clock.now()
        async with self._tools.database.unit() as unit:
            return await unit.seats.claim(
                step.application_id, step.item, step.account_id, step.subject_id, now
            )

    async def _wait_for_seat(self, step: Step, place: int, found: Mapping[str, Any]) -> StepState:
        problem = {
            "code": "no-seat",
            "text": f"No seat of {step.item} is free; number {place} in line.",
            "remedy": "Buy or reclaim one; the step goes on by itself when a seat returns.",
        }
        await self._note(step, StepState.WAITING, problem=problem, found=found)
        return StepState.WAITING
