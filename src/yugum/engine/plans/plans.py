"""Plans: prepared for any verb, shown, confirmed, and fired when they were kept in confidence."""

from __future__ import annotations

from collections.abc import Sequence

from yugum.core.applications import Duty
from yugum.core.requests import PlanRequest
from yugum.core.verbs import Quick, Verb
from yugum.engine.approvals import Approvals
from yugum.engine.plans.confirm import Confirmation
from yugum.engine.plans.groups import prepare_group
from yugum.engine.plans.kept import BatchView, batch_of, view
from yugum.engine.plans.precaution import prepare_precaution
from yugum.engine.plans.prepare import prepare_people
from yugum.engine.plans.quick import prepare_accounts
from yugum.engine.plans.safeguards import Actor
from yugum.engine.plans.undo import prepare_undo
from yugum.errors import Conflict, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.connectors import Connectors
from yugum.ports.plans import ConfirmedDocket, PreparedBatch
from yugum.ports.services import Vault
from yugum.ports.units import Database


class Plans:
    """Prepares and confirms plans."""

    def __init__(
        self,
        database: Database,
        connectors: Connectors,
        clock: Clock,
        vault: Vault,
        approvals: Approvals,
    ) -> None:
        self._vault = vault
        self._approvals = approvals
        self._database = database
        self._connectors = connectors
        self._clock = clock

    async def prepare(self, request: PlanRequest, actor: Actor) -> BatchView:
        """A batch of plans, from what the applications show now.

        Nothing is changed but what Yugum knows. An application that does not answer is named in
        the cautions, and its accounts are planned as last seen.
        """
        _must_be_read(request)
        now = await self._clock.now()
        prepare = {
            Verb.UNDO: prepare_undo,
            Verb.ACCOUNT: prepare_accounts,
            Verb.GROUP: prepare_group,
        }.get(request.verb, prepare_people)
        if request.measure is not None:
            prepare = prepare_precaution
        return await prepare(self._database, self._connectors, request, actor, now)

    async def prepared(self, actor: Actor) -> Sequence[PreparedBatch]:
        """What an operator keeps in confidence and has not carried out."""
        async with self._database.unit() as unit:
            return await unit.plans.prepared(actor.login)

    async def fire(
        self,
        batch_id: str,
        actor: Actor,
        *,
        reference: str = "",
        reason: str = "",
        typed: str = "",
        override: str = "",
    ) -> Sequence[ConfirmedDocket]:
        """Carry out at once what was prepared in confidence, planned again from what is now.

        What is left out is as it was prepared; but what was said then overrides no guard that has
        arisen since.

        Raises:
            Conflict: a guard forbids it; it stays prepared.
        """
        async with self._database.unit() as unit:
            plans = await batch_of(unit, batch_id, actor)
            if plans[0].confirmed is not None:
                return await unit.plans.confirmed(batch_id)
            request = plans[0].cause.request
            foreseen = await unit.plans.blocked_by(batch_id)
        if request is None:
            raise Conflict("Only what was prepared in confidence is fired.", remedy="Confirm it.")
        batch, over = await self.prepare(request, actor), ""
        try:
            async with self._database.unit() as unit:
                arisen = [c for c in await unit.plans.blocked_by(batch.id) if c not in foreseen]
            made = await self.confirm(
                batch.id,
                batch.digest,
                actor,
                reference=reference or request.reference,
                reason=reason or request.reason,
                typed=typed,
                override=override or ("" if arisen else request.override),
            )
            over = batch_id
        finally:  # fired, what was prepared goes; else it stays, and what was planned anew goes
            async with self._database.unit() as unit:
                await unit.plans.forget(over or batch.id)
        return made

    async def show(self, batch_id: str, actor: Actor) -> BatchView:
        async with self._database.unit() as unit:
            return await view(unit, batch_id, actor)

    async def confirm(
        self,
        batch_id: str,
        digest: str,
        actor: Actor,
        *,
        reference: str,
        reason: str,
        typed: str = "",
        override: str = "",
    ) -> Sequence[ConfirmedDocket]:
        """Make dockets of a batch whose digest is ``digest``, in one transaction.

        Confirming a second time returns the same dockets. What cannot be put back is confirmed by
        typing what goes, a guard that can be overridden by saying why.

        Raises:
            PlanStale: what the plan was made from has changed; make it again.
            Conflict: a guard forbids it, or what cannot be put back was not typed.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            confirmation = Confirmation(
                unit,
                self._approvals,
                self._vault,
                actor,
                now,
                reference=reference,
                reason=reason,
            )
            return await confirmation.confirm(batch_id, digest, typed=typed, override=override)


def _must_be_read(request: PlanRequest) -> None:
    """Nothing that was asked for is ignored."""
    if request.confidential and request.verb in (Verb.UNDO, Verb.ACCOUNT, Verb.GROUP):
        raise InvalidInput(
            "Only what is planned for people is prepared in confidence.", place="confidential"
        )
    asked = bool(request.application or request.group or request.values or request.new)
    if asked is not (request.verb is Verb.GROUP):
        raise InvalidInput(
            "A group is named with its application, and only for the verb group.",
            place="group",
            remedy="Give application and group, or neither.",
        )
    if request.accounts and request.verb not in (Verb.ACCOUNT, Verb.RENAME, Verb.RECHECK):
        raise InvalidInput("Accounts are not named for this.", place="accounts", remedy="Name who.")
    if request.seats and request.verb is not Verb.RECHECK:
        raise InvalidInput("Seats are given when somebody is looked at again.", place="seats")
    if request.right and request.verb not in (Verb.MOVER, Verb.RENAME):
        raise InvalidInput(
            "Fields are right of a move or a rename.", place="right", remedy="Leave it out."
        )
    if request.action is not None and request.verb is not Verb.ACCOUNT:
        raise InvalidInput("An action is for accounts.", place="action", remedy="Leave it out.")
    if (request.action is Quick.REQUIRE) is not bool(request.duties):
        raise InvalidInput(
            "Duties go with the action require, and it with duties.",
            place="duties",
            remedy=f"Name some of: {', '.join(Duty)}.",
        )
    measure = request.measure is not None
    if measure and (request.verb is not Verb.ACCOUNT or request.accounts or request.action):
        raise InvalidInput(
            "A precaution is about people as a whole.",
            place="measure",
            remedy="Plan it with verb account and who, without accounts and action.",
        )
    if (request.ground or request.review) and not measure:
        raise InvalidInput(
            "A ground and a review belong to a precaution.",
            place="ground" if request.ground else "review",
            remedy="Name a measure: suspend or secure.",
        )
    if request.since and request.verb not in (Verb.MOVER, Verb.LEAVER):
        raise InvalidInput(
            "Only of a move or a leaver is learned afterwards.",
            place="since",
            remedy="Leave it out.",
        )
    kept = {"reference": request.reference, "reason": request.reason, "override": request.override}
    if said := [name for name, value in kept.items() if value and not request.confidential]:
        raise InvalidInput(
            "This is kept with a plan that is prepared in confidence only.",
            place=said[0],
            remedy="Say it when you confirm the plan.",
        )
