"""What an account holds already: it stays, or it is taken away."""

from __future__ import annotations

from yugum.core.accounts import Account, HoldingKind
from yugum.core.actions import Action, Phase
from yugum.core.applications import Application, Capability
from yugum.core.decisions import OriginKind
from yugum.core.drafts import Draft
from yugum.core.promises import heir_of
from yugum.core.wanted import Wanted


def stays_or_goes(
    draft: Draft,
    application: Application,
    account: Account,
    kind: HoldingKind,
    item: str,
    want: Wanted,
    phase: Phase | None = None,
) -> None:
    """What an account holds stays if it is wanted or was found there, and else goes."""
    wanted = want.entitlements if kind is HoldingKind.ENTITLEMENT else want.seats
    origin = draft.origin_of(account, kind, item)
    if item in wanted:
        draft.stay(application, item, wanted[item][1])
    elif origin.kind is OriginKind.FOUND:
        draft.stay(application, item, "found there, no rule gave it")
    else:
        why = f"role {origin.name} no longer applies"
        if origin.kind is OriginKind.DECISION:
            why = "the exception has ended"
        take(draft, application, account, kind, item, why, phase)


def take(
    draft: Draft,
    application: Application,
    account: Account,
    kind: HoldingKind,
    item: str,
    why: str,
    phase: Phase | None = None,
) -> None:
    """Take an entitlement or a seat away; groups of an application that offers none stay."""
    origin = draft.origin_of(account, kind, item)
    action, before, after = Action.REVOKE, "held", "not held"
    if kind is HoldingKind.SEAT:
        action, before, after = Action.FREE_SEAT, "one seat", "no seat"
        if heir := heir_of(draft.world, (application.id, item), account.id):
            why += f"; it is passed on to {heir.person_name}"
    elif not application.can(Capability.ENTITLEMENTS):
        return
    draft.add(
        application, account, action, before, after, why, item=item, origin=origin, phase=phase
    )
