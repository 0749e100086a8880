"""Inviting again, and what somebody has to do at the first sign-in, asked for once an account is there."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yugum.core.accounts import Account, Observed
from yugum.core.actions import (
    GONE,
    Action,
    ActionSpec,
    Arguments,
    Facet,
    Needs,
    Phase,
    Settle,
    Words,
)
from yugum.core.applications import Capability, Duty
from yugum.core.invitations import CAPABILITY, DOES, duties_of

if TYPE_CHECKING:
    from collections.abc import Iterable

    from yugum.core.applications import Application
    from yugum.core.dockets import DoneStep
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing


class Invite(ActionSpec):
    """The application sends its invitation once more; a second mail does no harm."""

    action = Action.INVITE
    phase = Phase.CREDENTIAL
    needs = Needs(Capability.INVITE)
    settle = Settle.REPEAT_SAFE
    readable = False
    adds = True
    words = Words(
        past="invited again",
        does="invite again",
        counted=("invitation", "invitations"),
        counted_past="sent again",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        return False

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        undoing.lost("the invitation", "it is sent")


class Require(ActionSpec):
    """One duty (``item``) of the first sign-in; ``value`` "" lets it go."""

    action = Action.REQUIRE
    phase = Phase.CREDENTIAL
    needs = Needs()
    adds = True
    words = Words(
        past="asked for",
        does="ask for",
        counted=("duty", "duties"),
        counted_past="asked for",
    )

    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        asked = seen is not None and item in duties_of(seen)
        return asked == bool(arguments.value)

    def facet(self, item: str, seen: Observed) -> Facet:
        return Facet(setting=item, value="to do" if item in duties_of(seen) else "not asked for")

    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        duty = next((d for d in Duty if d == step.item), None)
        asked = bool(step.arguments.value)
        if duty is None:
            undoing.lost(step.item, "is no duty by now")
        elif account.state in GONE:
            undoing.lost(DOES[duty], "the account is deleted")
        elif (duty in duties_of(account)) != asked:
            undoing.already(DOES[duty])
        elif asked:
            undoing.returns(DOES[duty], "asked for no more")
            require(undoing.draft, undoing.application, account, duty, undoing.why, waived=True)
        else:
            undoing.returns(DOES[duty], "asked for again")
            require(undoing.draft, undoing.application, account, duty, undoing.why)


def require(
    draft: Draft,
    application: Application,
    account: Account,
    duty: Duty,
    why: str,
    *,
    waived: bool = False,
) -> None:
    """Plan that a duty is asked for at the next sign-in, or let go, where it is not so already."""
    if (duty in duties_of(account)) is not waived or not able(draft, application, (duty,)):
        return
    before, after = ("to do", "let go") if waived else ("not asked for", "to do")
    arguments = Arguments(value="" if waived else "to do")
    draft.add(
        application,
        account,
        Action.REQUIRE,
        f"{DOES[duty]}: {before}",
        after,
        why,
        item=duty.value,
        arguments=arguments,
    )


def able(draft: Draft, application: Application, duties: Iterable[Duty]) -> tuple[Duty, ...]:
    """The duties that an application can ask for; of the others the plan says that it cannot."""
    found = []
    for duty in dict.fromkeys(duties):
        if application.can(CAPABILITY[duty]):
            found.append(duty)
        else:
            text = f"{application.name} cannot ask anybody to {DOES[duty]} at the first sign-in."
            draft.warn("cannot-ask-duty", text)
    return tuple(found)
