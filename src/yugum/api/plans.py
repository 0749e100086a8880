"""Plans: prepare, look, confirm."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from fastapi import APIRouter, Request

from yugum.api.auth import Acting, Use, Viewer, actor
from yugum.api.discretion import discreet_each
from yugum.api.idempotency import IdempotentRoute
from yugum.api.shapes import number, shape
from yugum.api.views import said_of
from yugum.core.causes import title_of_cause
from yugum.core.requests import MOST_AT_ONCE, PlanRequest
from yugum.core.views import ListName
from yugum.engine.access import Operator
from yugum.engine.plans.kept import BatchView
from yugum.engine.services import Services
from yugum.errors import InvalidInput
from yugum.ports.plans import ConfirmedDocket, KeptPlan
from yugum.wire import plans as wl
from yugum.wire.common import as_dataclass

router = APIRouter(prefix="/plans", tags=["plans"], route_class=IdempotentRoute)


@router.post("", status_code=201, operation_id="plans.make")
async def make_plan(body: wl.NewPlan, use: Use, operator: Acting) -> wl.BatchView:
    """What a verb would do, from what the applications show now. Nothing happens yet."""
    if body.matching is not None:
        if body.who:
            text = "People are named, or filters say who it is; not both."
            raise InvalidInput(text, place="matching", remedy="Leave one of them out.")
        body = body.model_copy(update={"who": await _matching(body.matching, use)})
    made = await use.plans.prepare(as_dataclass(body, PlanRequest), actor(operator))
    return await batch_shape(use, operator, made)


async def _matching(matching: Mapping[str, str], use: Services) -> list[str]:
    """The ids of whoever fits the filters now; without filters, of everybody.

    Raises:
        InvalidInput: a filter is not known, nobody fits, or too many do.
    """
    said = said_of(ListName.PEOPLE, matching, "matching")
    page = await use.people.page(
        said.chosen(),
        filter_text=said.filter,
        manager=said.manager,
        cursor=None,
        limit=MOST_AT_ONCE,
    )
    if page.next:
        more = "Over " if page.over else ""
        raise InvalidInput(
            f"{more}{page.total} people fit; one plan is of at most {MOST_AT_ONCE}.",
            place="matching",
            remedy="Narrow it down with another filter, and plan for the others after that.",
        )
    if not page.items:
        raise InvalidInput("Nobody fits.", place="matching", remedy="Take a filter away.")
    return [line.id for line in page.items]


@router.get("", operation_id="plans.list")
async def list_prepared(use: Use, operator: Acting) -> list[wl.Prepared]:
    """What you keep in confidence and have not carried out; nobody else sees it."""
    return [wl.Prepared.model_validate(p) for p in await use.plans.prepared(actor(operator))]


@router.post("/{batch_id}/fire", status_code=201, operation_id="plans.fire")
async def fire_plan(
    batch_id: str, body: wl.Fire, request: Request, use: Use, operator: Acting
) -> wl.Confirmed:
    """Carry out at once what was prepared in confidence, planned again from what is now."""
    made = await use.plans.fire(
        batch_id,
        actor(operator),
        reference=body.reference,
        reason=body.reason,
        typed=body.typed,
        override=body.override,
    )
    return _confirmed(request, made)


@router.get("/{batch_id}", operation_id="plans.show")
async def show_plan(batch_id: str, use: Use, operator: Viewer) -> wl.BatchView:
    return await batch_shape(use, operator, await use.plans.show(batch_id, actor(operator)))


@router.post("/{batch_id}/confirm", status_code=201, operation_id="plans.confirm")
async def confirm_plan(
    batch_id: str, body: wl.Confirm, request: Request, use: Use, operator: Acting
) -> wl.Confirmed:
    """Carry the plan out: dockets are made and begin when they are due."""
    made = await use.plans.confirm(
        batch_id,
        body.digest,
        actor(operator),
        reference=body.reference,
        reason=body.reason,
        typed=body.typed,
        override=body.override,
    )
    return _confirmed(request, made)


def _confirmed(request: Request, made: Sequence[ConfirmedDocket]) -> wl.Confirmed:
    return wl.Confirmed(
        dockets=[shape(wl.ConfirmedDocket, d, number=number(request, d.number)) for d in made]
    )


async def batch_shape(use: Services, operator: Operator, batch: BatchView) -> wl.BatchView:
    """A batch as it is told to an operator."""
    plans = [_plan(p) for p in batch.plans]
    shown = await discreet_each(use, operator, plans, lambda p: p.person_id)
    return shape(wl.BatchView, batch, plans=shown)


def _plan(plan: KeptPlan) -> wl.PlanView:
    notes = plan.notes
    return shape(
        wl.PlanView,
        plan,
        person_id=plan.subject_id,
        person_name=plan.display_name,
        title=title_of_cause(plan.verb, plan.cause),
        changes=plan.cause.changes,
        changed=notes.changed,
        summary=notes.summary,
        cautions=notes.cautions,
        stays=notes.stays,
        fidelity=notes.fidelity,
        steps=[shape(wl.PlanStep, s, phase=s.in_phase) for s in plan.steps],
    )
