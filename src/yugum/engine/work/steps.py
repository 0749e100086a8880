"""One step: observe; if it is so already, record that; else intent, act, read back, receipt."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import replace

from yugum.core.accounts import AccountState, Asset, Observed
from yugum.core.actions import NOT_SHOWN, NOTHING_DONE, Action, Done, Facet, Phase, Settle
from yugum.core.actions.registry import ACTIONS, observed_facet
from yugum.core.decisions import Decision
from yugum.core.dockets import Outcome, Step, StepProblem, StepState
from yugum.engine.work.claims import NEEDS_BASE, REFUSED, kept_until
from yugum.engine.work.sight import Sight
from yugum.engine.work.tools import LaneTools
from yugum.errors import ApplicationError, LeaseLost
from yugum.ports.journal import Entry

BACKOFF_LIMIT = 60.0
SETTLE_LIMIT = 30.0
SETTLE_TRIES = 8
STOPPED_SECONDS = 2.0
AGAIN_SECONDS = 60.0
PAIR_SECONDS = 0.5
SETTLING = StepProblem(code="settling", text="Accepted, not seen to have arrived yet.")
UNCLEAR = StepProblem(code="unclear", text="It is not known whether this was done.")


class StepRunner:
    """Carries out steps of one account; ``on_cut`` is told when a cut-off is made."""

    def __init__(self, tools: LaneTools, sight: Sight, on_cut: Callable[[], None]) -> None:
        self._tools = tools
        self._sight = sight
        self._on_cut = on_cut

    async def run(self, step: Step) -> StepState:
        """Carry a step as far as it goes now; problems end up in the journal."""
        began = time.perf_counter()
        acted = step.state is StepState.INTENT
        spec = ACTIONS[step.action]
        try:
            seen = await self._sight.look(step)
            found = observed_facet(step.action, step.item, seen)
            if step.state in (StepState.INTENT, StepState.SETTLING):
                return await self._settle(step, seen, found, began)
            if not spec.blind and self._sight.is_fulfilled(step, seen):
                return await self._receipt(step, seen, Outcome.ALREADY, found, began)
            if spec.seats > 0 and (lack := await self._seat(step)):
                return await self._without_seat(step, lack, found)
            if spec.seats < 0 and step.phase is Phase.ACCESS and (why := await self._suite(step)):
                return await self._wait_for_other(step, why)
            if spec.barred_by_hold and (hold := await self._hold(step)):
                return await self._held(step, hold)
            if step.arguments.after and (rival := await self._rival(step)):
                return await self._wait_for_pair(step, rival)
            if step.arguments.replaced_by and not await self._stands(step):
                return await self._wait_for_new(step)
            if spec.takes and not await self._tools.ceiling(self._sight.application):
                return await self._ceiling(step)
            moving = step.moving or self._sight.moving(step, seen)
            begun = replace(step, attempts=step.attempts + 1, moving=tuple(moving))
            await self._note(
                step, StepState.INTENT, found=found, attempts=begun.attempts, moving=moving
            )
            self._tools.on_intent()
            acted = True
            return await self._act(begun, found, began)
        except LeaseLost:
            raise
        except ApplicationError as error:
            return await self._failed(step, error, acted)

    async def stopped(self, step: Step, why: str) -> StepState:
        """Everything but cut-offs is stopped: look again soon."""
        remedy = "It goes on by itself once the stop is lifted: yugum go-on."
        problem = StepProblem(code="stopped", text=why, remedy=remedy)
        await self._note(step, step.state, problem=problem, retry=STOPPED_SECONDS)
        return StepState.WAITING

    async def _settle(
        self, step: Step, seen: Observed | None, found: Facet, began: float
    ) -> StepState:
        """After a crash or a late effect: look first, act again only where that is right."""
        spec = ACTIONS[step.action]
        unseen = spec.blind and step.state is StepState.INTENT
        if not unseen and self._sight.is_fulfilled(step, seen):
            is_new = seen is not None and self._sight.account is None
            external_id = seen.external_id if seen is not None and is_new else ""
            did = Done(note="seen after an interruption", external_id=external_id)
            return await self._receipt(step, seen, Outcome.DONE, None, began, did)
        if step.state is StepState.SETTLING:
            if step.attempts >= SETTLE_TRIES:
                problem = StepProblem(
                    code="not-settled",
                    text=f"{self._sight.application.name} accepted it but does not show it.",
                    remedy="Look there; then retry the step or note it as done by hand.",
                )
                await self._note(step, StepState.ATTENTION, problem=problem)
                return StepState.ATTENTION
            return await self._settling(step)
        if spec.settle is Settle.ASK:
            await self._note(step, StepState.ATTENTION, problem=UNCLEAR)
            return StepState.ATTENTION
        if spec.seats > 0 and (lack := await self._seat(step)):
            return await self._without_seat(step, lack, found)
        if spec.barred_by_hold and (hold := await self._hold(step)):
            return await self._held(step, hold)
        return await self._act(step, None, began)

    async def _act(self, step: Step, found: Facet | None, began: float) -> StepState:
        did, kept = await self._sight.act(step)
        if did.task:
            return await self._wait_for_owner(step)
        if not ACTIONS[step.action].readable:
            return await self._receipt(step, None, Outcome.DONE, found, began, did, kept)
        if step.phase is Phase.SECURE:
            self._on_cut()
            await self._tools.lookback.wait()
        seen = await self._sight.look(step, after=True)
        if not self._sight.is_fulfilled(step, seen):
            return await self._settling(step)
        return await self._receipt(step, seen, Outcome.DONE, found, began, did)

    # --- writing down ------------------------------------------------------------------------

    async def _note(
        self,
        step: Step,
        state: StepState,
        *,
        found: Facet | None = None,
        problem: StepProblem | None = None,
        retry: float | None = None,
        attempts: int | None = None,
        moving: Sequence[Asset] = (),
    ) -> None:
        await self._tools.journal.write(
            Entry(
                step=step,
                epoch=self._sight.epoch,
                state=state,
                attempts=step.attempts if attempts is None else attempts,
                retry_seconds=retry,
                problem=problem,
                found=found,
                moving=moving,
            )
        )

    async def _receipt(
        self,
        step: Step,
        seen: Observed | None,
        outcome: Outcome,
        found: Facet | None,
        began: float,
        did: Done = NOTHING_DONE,
        credential: bytes | None = None,
    ) -> StepState:
        freed = await self._sight.take_in(step, seen)
        spec = ACTIONS[step.action]
        if step.moving:  # an attempt that was interrupted moved some as well
            every = {a.external_id: a for a in (*step.moving, *did.assets)}
            did = replace(did, assets=tuple(every.values()), to=step.arguments.to_name)
            outcome = Outcome.DONE
        await self._tools.journal.write(
            Entry(
                step=step,
                epoch=self._sight.epoch,
                state=StepState.DONE,
                attempts=step.attempts,
                found=found,
                outcome=outcome,
                did=did,
                seen=spec.facet(step.item, seen) if seen is not None else NOT_SHOWN,
                took_ms=round((time.perf_counter() - began) * 1000, 2),
                account=self._sight.account,
                origins=spec.origins(step),
                freed_licenses=freed,
                credential=credential,
            )
        )
        return StepState.DONE

    async def _failed(self, step: Step, error: ApplicationError, acted: bool) -> StepState:
        """Retryable: back off and stay in doubt if the effect may have happened."""
        attempts = step.attempts + (0 if acted and step.state is StepState.DUE else 1)
        problem = StepProblem(code=error.code, text=error.message, remedy=error.remedy)
        if not error.retryable:
            if step.action is Action.CREATE and await self._goes_still(step):
                return await self._wait_for_old(step)
            await self._note(step, StepState.ATTENTION, problem=problem, attempts=attempts)
            return StepState.ATTENTION
        if error.retry_after is not None:
            wait = error.retry_after
            await self._tools.pause(self._sight.application.id, wait)
        else:
            exponent = min(max(attempts - 1, 0), 10)
            wait = min(self._tools.retry_base * 2**exponent, BACKOFF_LIMIT)
        state = StepState.INTENT if acted else StepState.DUE
        await self._note(step, state, problem=problem, retry=wait, attempts=attempts)
        return state

    async def _settling(self, step: Step) -> StepState:
        wait = min(self._tools.retry_base * 2**step.attempts, SETTLE_LIMIT)
        attempts = step.attempts + 1
        await self._note(step, StepState.SETTLING, problem=SETTLING, retry=wait, attempts=attempts)
        return StepState.SETTLING

    # --- waiting -----------------------------------------------------------------------------

    async def _ceiling(self, step: Step) -> StepState:
        application = self._sight.application
        limit = application.profile.ceiling_per_hour
        problem = StepProblem(
            code="ceiling",
            text=f"{limit} things were taken away this hour in {application.name}.",
            remedy="It goes on in the next hour, or when the application's ceiling is raised.",
        )
        await self._note(step, step.state, problem=problem, retry=AGAIN_SECONDS)
        return StepState.WAITING

    async def _hold(self, step: Step) -> Decision | None:
        """A hold placed since the step was planned: it may have waited for days."""
        now = await self._tools.clock.now()
        async with self._tools.database.unit() as unit:
            return await unit.decisions.hold_on(step.subject_id, step.application_id, now)

    async def _held(self, step: Step, hold: Decision) -> StepState:
        problem = StepProblem(
            code="held",
            text=f"On hold by {hold.author}: {hold.reason}",
            remedy="It goes on by itself when the hold ends; or cancel the docket.",
        )
        await self._note(step, step.state, problem=problem, retry=AGAIN_SECONDS)
        return StepState.WAITING

    async def _rival(self, step: Step) -> str:
        """What excludes the step's entitlement and is held still, as last seen."""
        async with self._tools.database.unit() as unit:
            accounts = await unit.accounts.some({r.account for r in step.arguments.after})
        held = (
            r.item
            for r in step.arguments.after
            if r.account in accounts and r.item in accounts[r.account].entitlements
        )
        return next(held, "")

    async def _wait_for_pair(self, step: Step, rival: str) -> StepState:
        """The one that comes is given only after the one that goes is seen gone."""
        problem = StepProblem(
            code="pair",
            text=f"{step.item} is not given beside {rival}, which is held still.",
            remedy="It goes on by itself once that is gone.",
        )
        return await self._wait_for_other(step, problem)

    async def _stands(self, step: Step) -> bool:
        """Whether the account that takes this one's place has all it is to have."""
        new = step.arguments.replaced_by
        async with self._tools.database.unit() as unit:
            known = (await unit.accounts.some({new})).get(new)
            open_steps = await unit.dockets.begun([step.subject_id])
        there = known is not None and known.state is AccountState.ACTIVE
        return there and not any(s.account_id == new for s in open_steps)

    async def _goes_still(self, step: Step) -> bool:
        """Whether the account that there was in the application before this one is yet to be purged."""
        async with self._tools.database.unit() as unit:
            known = await unit.accounts.known([step.subject_id])
        return any(
            a.application_id == step.application_id
            and a.id != step.account_id
            and a.state is AccountState.DELETED
            and a.login.casefold() == step.arguments.login.casefold()
            for a in known.accounts[step.subject_id]
        )

    async def _wait_for_old(self, step: Step) -> StepState:
        problem = StepProblem(
            code="replaced",
            text="The account that was there before is not gone yet, and has the login.",
            remedy="It goes on by itself once that is purged.",
        )
        return await self._wait_for_other(step, problem)

    async def _wait_for_new(self, step: Step) -> StepState:
        problem = StepProblem(
            code="replaced",
            text="The account that takes its place does not stand yet.",
            remedy="It goes on by itself once the new account has what this one had.",
        )
        return await self._wait_for_other(step, problem)

    async def _wait_for_other(self, step: Step, problem: StepProblem) -> StepState:
        """Look again soon, then less often: what it waits for is another step."""
        wait = min(PAIR_SECONDS * 2 ** min(step.attempts, 10), AGAIN_SECONDS)
        await self._note(step, step.state, problem=problem, retry=wait, attempts=step.attempts + 1)
        return StepState.WAITING

    async def _wait_for_owner(self, step: Step) -> StepState:
        application = self._sight.application
        call = f"; call {application.contact}." if application.contact else "."
        problem = StepProblem(
            code="task",
            text=f"A task for the owner of {application.name} is open.",
            remedy=f"They report it done or refuse it{call}",
        )
        await self._note(step, StepState.INTENT, problem=problem)
        return StepState.WAITING

    async def _seat(self, step: Step) -> StepProblem | None:
        """Claim the seat in a short transaction that is not the step's; why there is none."""
        return await self._tools.desk.claim(step, self._sight.seats)

    async def _suite(self, step: Step) -> StepProblem | None:
        """A seat that goes for another one goes once that is there, which brings along what it gave."""
        async with self._tools.database.unit() as unit:
            return await kept_until(unit, step, self._sight.seats)

    async def _without_seat(self, step: Step, problem: StepProblem, found: Facet) -> StepState:
        if problem.code == NEEDS_BASE:
            return await self._wait_for_other(step, problem)
        state = StepState.ATTENTION if problem.code == REFUSED else StepState.WAITING
        await self._note(step, state, problem=problem, found=found)
        return state
