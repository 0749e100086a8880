"""Precautions: somebody suspended as a whole, or only secured anew while working on, until it is reviewed.

Nothing is freed and nothing handed over. A suspension is a decision without an application, so that what
roles give later stays closed too; it is lifted by undoing its docket, and goes over into a leaver.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime

from yugum.core.accounts import AccountKind, is_open
from yugum.core.actions import GONE, Action, Arguments
from yugum.core.actions.credential import new_credential
from yugum.core.applications import Application, Capability
from yugum.core.decisions import Decision, DecisionKind, in_force
from yugum.core.desired import Subject, World
from yugum.core.drafts import Draft
from yugum.core.leaving import cut_off
from yugum.core.people import day_begins
from yugum.core.plans import Plan
from yugum.core.verbs import Measure, Verb

PRECAUTION = "precaution"
"""What people without the right to know read of it; the ground stands in its decision."""


def precautions(decisions: Iterable[Decision], at: datetime) -> list[Decision]:
    """The precautions in force at a moment, of either measure."""
    return [d for d in in_force(decisions, at) if is_precaution(d)]


def is_precaution(decision: Decision) -> bool:
    return decision.kind is DecisionKind.SUSPEND and bool(decision.payload.measure)


def suspended_whole(decisions: Iterable[Decision], at: datetime) -> Decision | None:
    """The precaution that keeps somebody closed everywhere, if there is one."""
    found = precautions(decisions, at)
    return next((d for d in found if d.payload.measure == Measure.SUSPEND), None)


def kept_suspended(
    decisions: Iterable[Decision], application_id: str, at: datetime
) -> Decision | None:
    """What keeps somebody's accounts in an application closed: a precaution, or a decision about that one."""
    some = [d for d in in_force(decisions, at) if d.kind is DecisionKind.SUSPEND]
    here = next((d for d in some if d.payload.application == application_id), None)
    return suspended_whole(some, at) or here


def review_moment(decision: Decision, zone: str) -> datetime:
    """When a precaution is to be looked at again: its review day begins."""
    return day_begins(date.fromisoformat(decision.payload.review), zone)


def plan_precaution(subject: Subject, world: World, measure: Measure, at: datetime) -> Plan:
    """The steps of a measure on every open account of a person."""
    draft = Draft(subject, world, at)
    for account in subject.accounts:
        application = world.applications[account.application_id]
        if account.kind is not AccountKind.PERSON or account.state in GONE or not is_open(account):
            continue
        if measure is Measure.SUSPEND:
            cut_off(draft, application, account, PRECAUTION)
        elif _can_secure(application):
            draft.add(
                application,
                account,
                Action.CUT_OFF,
                "active",
                "every session ended, keys kept",
                PRECAUTION,
                arguments=Arguments(keys_kept=True),
            )
            draft.add(application, account, Action.RESUME, "suspended", "active", PRECAUTION)
            new_credential(draft, application, account, PRECAUTION)
        else:
            draft.warn(
                "cannot-secure",
                f"{application.name} cannot end sessions and set another credential; do it by hand.",
                Action.CUT_OFF.value,
            )
    return draft.finish(Verb.ACCOUNT)


def _can_secure(application: Application) -> bool:
    return application.can(Capability.SUSPEND) and application.can(Capability.CREDENTIAL)
