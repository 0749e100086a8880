"""The way back: the inverse of what a docket did, with a report of what comes back and what cannot.

Three-way: only what still is as the docket left it is put back; what was changed since stays and is
named. Each action knows its own way back (``core.actions``). Where the docket's cause changed the person,
taking that back also brings what roles give again, and takes what they give no more, whichever docket
had followed from it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from datetime import datetime

from yugum.core.accounts import AccountState
from yugum.core.actions import GONE, Action
from yugum.core.actions.registry import ACTIONS
from yugum.core.desired import Subject, World
from yugum.core.dockets import DoneStep, OpenStep, Outcome
from yugum.core.drafts import Draft
from yugum.core.fidelity import NOT_KNOWN, Report, Still, Texts, Undoing
from yugum.core.planning import draft_subject
from yugum.core.plans import Plan, PlannedStep
from yugum.core.verbs import Verb


@dataclass(frozen=True, slots=True, kw_only=True)
class Since:
    """What has become of what a docket did.

    ``left`` it left open: it took that over, so where it is wanted all the same the undo goes on with it.
    Accounts that it made and that were closed and brought back since (``reborn``) are others' by now. ``texts``
    are those of places that it redirected.
    """

    left: Sequence[OpenStep] = ()
    reborn: Set[str] = frozenset()
    texts: Texts = field(default_factory=dict)


NOTHING_SINCE = Since()


def plan_undo(
    subject: Subject,
    world: World,
    at: datetime,
    done: Sequence[DoneStep],
    as_now: Subject | None = None,
    still: Still = NOT_KNOWN,
    since: Since = NOTHING_SINCE,
) -> Plan:
    """The inverse of the ``done`` steps, last first, and what follows from the cause taken back.

    ``subject`` carries facts and decisions as they will be once the cause is taken back, ``as_now`` as they
    are without that.
    """
    draft = Draft(subject, world, at)
    report = Report()
    if as_now is not None and as_now != subject:
        _follow(draft, report, as_now, since.left)
    accounts = {a.id: a for a in subject.accounts}
    for step in sorted(done, key=lambda s: s.position, reverse=True):
        application = world.applications.get(step.application_id)
        account = accounts.get(step.account_id)
        if application is None or step.outcome is not Outcome.DONE:
            continue
        undoing = Undoing(draft, report, application, still=still, texts=since.texts)
        if account is None or account.state is AccountState.PURGED:
            undoing.lost(step.item or "account", "the account is gone for good")
        elif step.action in MAKES and account.id in since.reborn and account.state not in GONE:
            undoing.lost("no account", "closed and brought back by others since; left as it is")
        else:
            ACTIONS[step.action].take_back(undoing, account, step)
    return replace(draft.finish(Verb.UNDO), fidelity=tuple(report.lines))


def _follow(draft: Draft, report: Report, as_now: Subject, left: Sequence[OpenStep]) -> None:
    """Plan what somebody differs in from then on, less what they differ in as they are now.

    What is ``left`` open is planned though it differs now: with the undo nobody else is at it.
    """
    then = draft_subject(draft.subject, draft.world, draft.at, Verb.UNDO)
    now = draft_subject(as_now, draft.world, draft.at, Verb.UNDO)
    known = {_key(s) for s in now.steps if not any(o.does(s) for o in left)}
    for step in then.steps:
        if _key(step) in known:
            continue
        draft.steps.append(step)
        name = draft.world.applications[step.application_id].name
        if step.action in TOLD:
            what = TOLD[step.action].format(item=step.item)
            report.returns(f"{name}: {what}", step.reason)
    held = {(_key(s), code) for s, code in now.held_back}
    draft.held_back += [(s, code) for s, code in then.held_back if (_key(s), code) not in held]
    for caution in then.cautions:
        if caution not in now.cautions:
            draft.cautions.append(caution)


def _key(step: PlannedStep) -> tuple[str, str, Action, str]:
    return (step.application_id, step.account_id, step.action, step.item)


MAKES = frozenset({Action.CREATE, Action.RESTORE})
TOLD: Mapping[Action, str] = {
    Action.CREATE: "account",
    Action.RESTORE: "account",
    Action.REOPEN: "account",
    Action.RESUME: "access",
    Action.CUT_OFF: "no access",
    Action.LOCK: "no access",
    Action.GRANT: "{item}",
    Action.TAKE_SEAT: "{item}",
    Action.REVOKE: "without {item}",
    Action.FREE_SEAT: "without {item}",
    Action.SET: "{item}",
    Action.UPDATE: "{item}",
    Action.TRANSFER: "{item}",
}
"""How the report names what follows from the cause taken back."""
