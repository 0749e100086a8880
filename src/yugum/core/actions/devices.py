"""Trusted devices, on which no second proof is asked for: ended with every cut-off."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, Observed
from yugum.core.actions import Action, ActionSpec, Arguments, Facet, Needs, Phase, Words
from yugum.core.applications import Capability
from yugum.core.wording import plural

if TYPE_CHECKING:
    from yugum.core.applications import Application
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing


class EndDevices(ActionSpec):
    """Where an application remembers devices apart from its ways in: a lane waits for nothing else,
    so that an account that cannot be suspended loses its devices all the same."""

    action = Action.END_DEVICES
    phase = Phase.SECURE
    needs = Needs(Capability.DEVICES, after=frozenset())
    comes_with = frozenset({Action.CUT_OFF, Action.LOCK})
    words = Words(
        past="trusted devices ended",
        does="end trusted devices",
        counted=("account's trusted devices", "accounts' trusted devices"),
        counted_past="ended",
        task="Let {login} be trusted on no device any more.",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is None or seen.devices == 0

    def facet(self, item: str, seen: Observed) -> Facet:
        return Facet(devices=seen.devices)

    def come_along(
        self, draft: Draft, application: Application, account: Account, reason: str
    ) -> None:
        if application.can(Capability.DEVICES):
            before, after = "trusted on some devices", "trusted on none"
            draft.add(application, account, Action.END_DEVICES, before, after, reason)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        count = step.found.devices
        what = plural(count, "trusted device") if count else "trusted devices"
        undoing.lost(what, "ended; each has to be trusted anew")
