"""The standing difference: what somebody should have against what they have, line by line.

The difference is what a look at the person would plan now; the plan exists once. Each line has exactly
one status: it is in hand, it waits for something, somebody accepted it, or it is a finding.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.accounts import Account, AccountState
from yugum.core.actions import GONE, Action, Phase
from yugum.core.actions.delete import ENDING
from yugum.core.closing import plan_owed
from yugum.core.desired import Subject, World
from yugum.core.dockets import OpenStep, StepState
from yugum.core.drafts import NOT_TRUSTED
from yugum.core.lines import (
    CLOSING,
    AskedDocket,
    Hand,
    Key,
    Line,
    LineKind,
    LineStatus,
    Side,
)
from yugum.core.obligations import ObligationKind, Owed, brought_back, owed
from yugum.core.outlived import outlived
from yugum.core.people import PersonState, state_at
from yugum.core.planning import ARRIVES, draft_subject
from yugum.core.plans import Plan, PlannedStep
from yugum.core.summaries import only
from yugum.core.verbs import WHOLE, Verb
from yugum.core.windows import can_come_back

ABOUT: Mapping[Action, tuple[LineKind, Side]] = {
    Action.CREATE: (LineKind.ACCOUNT, Side.MISSING),
    Action.RESTORE: (LineKind.ACCOUNT, Side.MISSING),
    Action.REOPEN: (LineKind.ACCOUNT, Side.MISSING),
    Action.RESUME: (LineKind.ACCOUNT, Side.MISSING),
    Action.CUT_OFF: (LineKind.ACCOUNT, Side.TOO_MUCH),
    Action.LOCK: (LineKind.ACCOUNT, Side.TOO_MUCH),
    Action.DELETE: (LineKind.ACCOUNT, Side.TOO_MUCH),
    Action.PARK: (LineKind.ACCOUNT, Side.TOO_MUCH),
    Action.PURGE: (LineKind.ACCOUNT, Side.TOO_MUCH),
    Action.GRANT: (LineKind.ENTITLEMENT, Side.MISSING),
    Action.REVOKE: (LineKind.ENTITLEMENT, Side.TOO_MUCH),
    Action.TAKE_SEAT: (LineKind.SEAT, Side.MISSING),
    Action.FREE_SEAT: (LineKind.SEAT, Side.TOO_MUCH),
    Action.SET: (LineKind.SETTING, Side.DIFFERS),
    Action.UPDATE: (LineKind.ATTRIBUTE, Side.DIFFERS),
    Action.TRANSFER: (LineKind.ASSET, Side.TOO_MUCH),
    Action.COPY: (LineKind.ASSET, Side.MISSING),
    Action.CALL_OFF: (LineKind.ASSET, Side.TOO_MUCH),
    Action.REDIRECT: (LineKind.MENTION, Side.DIFFERS),
    Action.RUN: (LineKind.STEP, Side.ASKED),
}
"""What a planned step says of the difference; steps that only come along with others say nothing."""

WAITS: Mapping[str, str] = {
    "no-seat": "seat",
    "needs-base": "base",
    "no-seat-left": "attention",
    "task": "task",
    "held": "hold",
    "pair": "pair",
    "replaced": "needs",
    "stopped": "stop",
    "ceiling": "ceiling",
    "settling": "not-seen",
    "not-settled": "attention",
    "refused": "attention",
    "unclear": "attention",
}
"""What a step waits for, by the code of its problem; any other is an application without answer."""


NOT_ASKED = WHOLE | {Verb.CLOSE, Verb.PURGE}
"""Dockets whose steps follow from the difference: nobody asked for one of them."""


def standing(subject: Subject, world: World, hand: Hand, at: datetime) -> tuple[Line, ...]:
    """The standing difference of one subject at a moment; each line once, with its status."""
    found: dict[Key, Line] = {}
    over = outlived(subject, world, hand.steps, at)
    open_steps, waits = [s for s in hand.steps if s.id not in over], _awaited(subject, hand, at)
    for step, code in differences(subject, world, at):
        line = _line(step, code)
        if line.key in found:
            continue
        same = [s for s in open_steps if _same(s, step)]
        mine = same[0] if same else None
        if mine is not None:  # an account may take several to come back: one line
            about = same if line.kind is LineKind.ACCOUNT else [mine]
            open_steps = [s for s in open_steps if s not in about]
            line = replace(line, account_id=mine.account_id)
            line = _in_hand(line, mine)
        found[line.key] = line if mine is not None else _otherwise(line, hand, waits, at)
    for pair in _both(subject, world):
        found[pair.key] = _otherwise(pair, hand, waits, at)
    for left in open_steps:
        if left.action in ABOUT and left.verb in NOT_ASKED:
            continue  # no longer due and left out by the next look, or it comes along with a closing
        line = _asked(left)
        found[line.key] = _in_hand(line, left)
    for line in map(_docket, hand.asked):
        found[line.key] = _accepted(line, hand, at) or line
    return tuple(sorted(found.values(), key=lambda line: line.key))


IN_HAND = "Nothing more to do: begun dockets have the rest in hand."
ASKED_FIRST = "Nothing to do yet: somebody is asked first."


def less(
    plan: Plan, begun: Sequence[OpenStep], over: Collection[str], world: World
) -> tuple[Plan, list[str]]:
    """A look's plan less what begun dockets have in hand, and their steps that are not due any more.

    ``over`` are those that `outlived` names.
    """
    made = {s.application_id: s.account_id for s in begun if s.action is Action.CREATE}
    fresh = {s.account_id for s in plan.steps if s.action is Action.CREATE}
    planned = [
        _as_made(p, made[p.application_id], fresh) if p.application_id in made else p
        for p in plan.steps
    ]
    gone = [
        s.id
        for s in begun
        if s.id in over
        or (s.verb in WHOLE and not s.in_doubt and not any(s.does(p) for p in planned))
    ]
    kept = [s for s in begun if s.id not in gone]
    steps = tuple(p for p in planned if not any(s.does(p) for s in kept))
    return only(plan, steps, world.applications, IN_HAND), gone


def _as_made(step: PlannedStep, made: str, fresh: set[str]) -> PlannedStep:
    """A planned step about the account that a docket is making already."""
    said = step.arguments
    if said.to_account in fresh:
        said = replace(said, to_account=made)
    if said.replaced_by in fresh:
        said = replace(said, replaced_by=made)
    account = made if step.account_id in fresh else step.account_id
    return replace(step, account_id=account, arguments=said)


def as_agreed(plan: Plan, hand: Hand, state: PersonState, world: World) -> Plan:
    """What a look may do of a plan while somebody is asked, or nobody has agreed in time.

    Of who has left that every way in ends, of a joiner nothing.
    """
    asked = {d.verb for d in hand.asked}
    steps = plan.steps
    if Verb.LEAVER in asked and state is PersonState.LEFT:
        steps = tuple(s for s in steps if s.in_phase is Phase.SECURE)
    if Verb.JOINER in asked:
        steps = ()
    return only(plan, steps, world.applications, ASKED_FIRST)


def keys(subject: Subject, world: World, at: datetime) -> set[Key]:
    """Which lines there would be at a moment, with what is known today."""
    found = {_line(step, code).key for step, code in differences(subject, world, at)}
    return found | {pair.key for pair in _both(subject, world)}


def differences(subject: Subject, world: World, at: datetime) -> Iterator[tuple[PlannedStep, str]]:
    """What a look would do now, and what it cannot do with the code of why."""
    draft = draft_subject(subject, world, at, Verb.RECHECK)
    yield from ((s, "") for s in draft.steps if s.action in ABOUT)
    yield from ((s, code) for s, code in draft.held_back if s.action in ABOUT)
    accounts = {a.id: a for a in subject.accounts}
    for one in owed(subject, world, at):
        account = accounts.get(one.account_id)
        if account is None or one.due > at or account.state is AccountState.PURGED:
            continue
        plan = plan_owed(one.kind, subject, world, account, at)
        blocks = [c.code for c in plan.cautions if c.blocks]
        if final := [s for s in plan.steps if s.action in (*ENDING, Action.RESTORE)]:
            yield from ((s, "") for s in final)
        elif blocks:
            yield _not_done(one, subject, world, account, at, blocks)


def _not_done(
    one: Owed,
    subject: Subject,
    world: World,
    account: Account,
    at: datetime,
    blocks: Sequence[str],
) -> tuple[PlannedStep, str]:
    """What is owed of an account and cannot be planned, and why: its end or, for a hold, its return."""
    after, action, code = "deleted", Action.DELETE, blocks[0]
    if one.kind is ObligationKind.PURGE:
        after = "gone for good"
        if can_come_back(account, at) and brought_back(subject, world, account, at) is not None:
            after, action = "suspended", Action.RESTORE
            code = next((c for c in blocks if c != "held"), NOT_TRUSTED)
    step = PlannedStep(
        application_id=account.application_id,
        account_id=account.id,
        action=action,
        before=account.state.value,
        after=after,
        reason=one.basis,
    )
    return step, code


def _line(step: PlannedStep, code: str) -> Line:
    kind, side = ABOUT[step.action]
    return Line(
        application_id=step.application_id,
        account_id=step.account_id,
        kind=kind,
        item=CLOSING if step.action in ENDING else step.item,
        side=side,
        want=step.after,
        held=step.before,
        reason=step.reason,
        code=code,
    )


def _same(one: OpenStep, step: PlannedStep) -> bool:
    """Whether an open step does what a difference asks for; of an account it may be any of its ways."""
    if one.application_id != step.application_id or one.action not in ABOUT:
        return False
    if ABOUT[one.action] != ABOUT[step.action]:
        return False
    same_account = not step.account_id or one.account_id == step.account_id
    kind, _ = ABOUT[step.action]
    if kind is LineKind.ACCOUNT:
        return same_account and (one.action in ENDING) == (step.action in ENDING)
    return same_account and one.item == step.item


def _in_hand(line: Line, step: OpenStep) -> Line:
    """A line that a docket has in hand: being done, or what its step waits for."""
    line = replace(line, step_id=step.id, ref=step.docket_id)
    if step.problem is None and step.state in (StepState.DUE, StepState.INTENT):
        if step.waiting:
            return replace(line, status=LineStatus.WAITING, code="needs")
        return replace(line, status=LineStatus.RUNNING, code="")
    code = WAITS.get(step.problem.code, "no-answer") if step.problem else "not-seen"
    if step.state is StepState.ATTENTION:
        code = "attention"
    return replace(line, status=LineStatus.WAITING, code=code, waits_since=step.held_at)


def _awaited(subject: Subject, hand: Hand, at: datetime) -> AskedDocket | None:
    """The docket about all of somebody that awaits a yes; a leaver's has to do only with who has left."""
    left = state_at(subject.person, at) is PersonState.LEFT
    for docket in hand.asked:
        if docket.verb in WHOLE and not docket.expired and (left or docket.verb is not Verb.LEAVER):
            return docket
    return None


def _accepted(line: Line, hand: Hand, at: datetime) -> Line | None:
    """The line as somebody settled for it."""
    by = next((a for a in hand.accepted if a.covers(line, at)), None)
    return replace(line, status=LineStatus.ACCEPTED, ref=by.id) if by is not None else None


def _otherwise(line: Line, hand: Hand, waits: AskedDocket | None, at: datetime) -> Line:
    """A line no step is about: it waits for a yes, is accepted, waits for a policy, or is a finding."""
    if accepted := _accepted(line, hand, at):
        return accepted
    if waits is not None and not (waits.verb is Verb.LEAVER and _access(line)):
        return replace(line, status=LineStatus.WAITING, code="approval", ref=waits.id)
    if hand.due and not line.code:
        return replace(line, status=LineStatus.RUNNING)
    if line.code == NOT_TRUSTED:
        return replace(line, status=LineStatus.WAITING, code="trust")
    if line.code == "held":
        return replace(line, status=LineStatus.WAITING, code="hold")
    if line.code == ARRIVES:
        return replace(line, status=LineStatus.WAITING)
    return line


def _access(line: Line) -> bool:
    """Whether it is access that should have ended: that waits for nobody to agree."""
    too_much = line.kind is LineKind.ACCOUNT and line.side is Side.TOO_MUCH
    return too_much and line.item != CLOSING


def _both(subject: Subject, world: World) -> Iterator[Line]:
    """Pairs that exclude each other of which somebody holds more than one."""
    for exclusion in world.rules.exclusions:
        held = [
            (account, item)
            for application, item in exclusion.items
            for account in subject.accounts
            if account.application_id == application
            and account.state not in GONE
            and item in account.entitlements
        ]
        for account, item in held[1:]:
            yield Line(
                application_id=account.application_id,
                account_id=account.id,
                kind=LineKind.ENTITLEMENT,
                item=item,
                side=Side.BOTH,
                want=f"not beside {held[0][1]}",
                held="held",
                reason=exclusion.name,
            )


def _asked(step: OpenStep) -> Line:
    return Line(
        application_id=step.application_id,
        account_id=step.account_id,
        kind=LineKind.STEP,
        item=" ".join(filter(None, [step.action.value.replace("_", " "), step.item])),
        side=Side.ASKED,
        want="done",
        held="not done",
        reason=f"step of a {step.verb.value} docket",
    )


def _docket(docket: AskedDocket) -> Line:
    return Line(
        application_id="",
        account_id="",
        kind=LineKind.DOCKET,
        item=docket.verb.value,
        side=Side.ASKED,
        want="begun",
        held="not approved" if docket.expired else "awaits approval",
        reason=f"{docket.verb.value} docket",
        status=LineStatus.FINDING if docket.expired else LineStatus.WAITING,
        code="expired" if docket.expired else "approval",
        ref=docket.id,
        waits_since=docket.made,
    )
