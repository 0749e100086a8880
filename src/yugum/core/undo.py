"""The way back: the inverse of what a docket did, with a report of what comes back and what cannot.

Three-way: only what still is as the docket left it is put back; what was changed since stays and is
named. Each action knows its own way back (``core.actions``).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.accounts import AccountState
from yugum.core.actions.registry import ACTIONS
from yugum.core.desired import Subject, World
from yugum.core.dockets import DoneStep, Outcome
from yugum.core.drafts import Draft
from yugum.core.fidelity import Report, Undoing
from yugum.core.plans import Plan
from yugum.core.verbs import Verb


def plan_undo(subject: Subject, world: World, at: datetime, done: Sequence[DoneStep]) -> Plan:
    """The inverse of the ``done`` steps, last first.

    ``subject`` carries the person's facts as they will be once the cause is taken back.
    """
    draft = Draft(subject, world, at)
    report = Report()
    accounts = {a.id: a for a in subject.accounts}
    for step in sorted(done, key=lambda s: s.position, reverse=True):
        application = world.applications.get(step.application_id)
        account = accounts.get(step.account_id)
        if application is None or step.outcome is not Outcome.DONE:
            continue
        undoing = Undoing(draft, report, application)
        if account is None or account.state is AccountState.PURGED:
            undoing.lost(step.item or "account", "the account is gone for good")
        else:
            ACTIONS[step.action].take_back(undoing, account, step)
    return replace(draft.finish(Verb.UNDO), fidelity=tuple(report.lines))
