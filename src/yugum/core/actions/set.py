"""Settings of accounts: container, hidden, forwarding and whatever else an application has."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, HoldingKind, Observed
from yugum.core.actions import Action, ActionSpec, Arguments, Facet, Needs, Phase, Words
from yugum.core.applications import Application, Capability
from yugum.core.desired import filled_in
from yugum.core.references import is_as
from yugum.core.windows import MAIL_SETTINGS

if TYPE_CHECKING:
    from yugum.core.decisions import LedgerKey, Origin
    from yugum.core.dockets import DoneStep, Step
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing


class Set(ActionSpec):
    """One setting; ``item`` is its name, ``value`` "" takes it away."""

    action = Action.SET
    phase = Phase.RECLAIM
    needs = Needs(Capability.SETTINGS)
    words = Words(past="set", does="set", counted=("setting", "settings"), counted_past="changed")

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return seen is None or seen.settings.get(item, "") == arguments.value

    def facet(self, item: str, seen: Observed) -> Facet:
        return Facet(setting=item, value=seen.settings.get(item, ""))

    def origins(self, step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
        if step.origin is None:
            return ()
        origin = step.origin if step.arguments.value else None
        return (((step.account_id, HoldingKind.SETTING, step.item), origin),)

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        if _ended(undoing, step):
            undoing.lost(step.item, "its time is over")
        else:
            set_back(undoing, account, step)


def set_back(undoing: Undoing, account: Account, step: DoneStep) -> None:
    """Put a setting back where it still is what the step made of it."""
    before = step.arguments.was if step.found.value is None else step.found.value
    now = account.settings.get(step.item, "")
    if undoing.planned(account, Action.SET, step.item):
        return  # what roles say goes before what was
    if now == before:
        undoing.already(step.item)
    elif now != step.arguments.value:
        undoing.changed(step.item, now or "nothing")
    else:
        undoing.returns(step.item, f"{before or 'nothing'} again")
        plan_setting(
            undoing.draft,
            undoing.application,
            account,
            step.item,
            before,
            undoing.why,
            phase=Phase.ACCOUNT,
        )


def _ended(undoing: Undoing, step: DoneStep) -> bool:
    """Whether a step ended what a leaver's account was set to for a time; that does not begin anew."""
    profile = undoing.application.profile
    standard = profile.standard_settings.get(step.item, "")
    return step.item in profile.leaver_setting_days and step.arguments.value == filled_in(
        standard, undoing.draft.subject.person
    )


def plan_setting(  # noqa: PLR0913 - what a step can be told
    draft: Draft,
    application: Application,
    account: Account | None,
    name: str,
    value: str,
    why: str,
    phase: Phase | None = None,
    origin: Origin | None = None,
    ground: str = "",
) -> None:
    """Set one setting of an account, where it is not so already."""
    was = account.settings.get(name, "") if account else ""
    if is_as(was, value) or not application.can(Capability.SETTINGS):
        return
    if name in MAIL_SETTINGS:
        phase = phase or Phase.MAIL
    draft.add(
        application,
        account,
        Action.SET,
        f"{name}: {was or 'nothing'}",
        value or "nothing",
        why,
        item=name,
        arguments=Arguments(value=value, was=was, ground=ground),
        origin=origin,
        phase=phase,
    )
