"""Whether somebody can begin: what the first day needs, against what is there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from yugum.core.accounts import Account, AccountState
from yugum.core.applications import Capability, Duty
from yugum.core.desired import Subject, World, desired, prepared_from
from yugum.core.dockets import ASKING, StepState
from yugum.core.invitations import duties_of, invited_at, never_accepted
from yugum.core.people import PersonState, start_moment, state_at
from yugum.core.planning import best, kept_by_hold


@dataclass(frozen=True, slots=True)
class CredentialState:
    """What is known of an account's initial credential."""

    told_at: datetime | None = None
    opened_at: datetime | None = None
    expired: bool = False


@dataclass(frozen=True, slots=True)
class Ready:
    """One application: ``state`` is the account's, None when there is none yet.

    ``lacks`` is everything that is still missing, in words; ``signed_in`` whether a first sign-in
    was seen, None where the application does not tell. ``duties`` are those of the first sign-in not done yet. ``tried`` says how the trial sign-in went: "" where
    there was to be none.
    """

    application_id: str
    state: AccountState | None
    lacks: tuple[str, ...]
    credential: str
    signed_in: bool | None
    tried: str = ""
    duties: tuple[Duty, ...] = ()
    invited_at: datetime | None = None


def readiness(
    subject: Subject,
    world: World,
    at: datetime,
    credentials: Mapping[str, CredentialState],
    used: Mapping[str, datetime],
    trials: Mapping[str, StepState],
    *,
    asked: bool = False,
) -> tuple[Ready, ...]:
    """One line for each application the person should have on the first day, or has by now.

    Somebody who has not begun yet needs nothing open; what is made later on is not missing yet, unless
    somebody is still ``asked`` whether they may begin at all.
    """
    begins = start_moment(subject.person) or at
    expected = state_at(subject.person, at) is PersonState.EXPECTED
    lines = []
    for application_id, want in sorted(desired(subject, world.rules, max(at, begins)).items()):
        application = world.applications.get(application_id)
        if application is None or want.account is None:
            continue
        mine = [a for a in subject.accounts if a.application_id == application_id]
        account = best(mine, at, kept_by_hold(subject, world, application, at))
        made_from = prepared_from(subject.person, application)
        ahead = expected and made_from is not None and at < made_from
        lacks: list[str] = []
        if account is None:
            if not ahead:
                lacks.append("no account")
            if asked:
                lacks.append("nobody has agreed yet")
        else:
            lacks += _open(account, expected=expected)
            lacks += [f"not in {e}" for e in want.entitlements if e not in account.entitlements]
            lacks += [f"no seat of {s}" for s in want.seats if s not in account.seats]
        tried = _tried(trials.get(account.id)) if account else ""
        if tried in (NOT_TRIED, REFUSED):
            lacks.append(tried)
        told = credentials.get(account.id) if account else None
        word = _credential(told)
        tells = application.can(Capability.CREDENTIAL)
        if tells and account is not None and not expected and not never_accepted(account):
            if word in ("not told", "link expired"):
                lacks.append(f"credential {word}")
            elif told is None and account.state is AccountState.ACTIVE:
                word = "set before"
        seen = used.get(account.id) if account else None
        signed = None if seen is None and not (account and account.sessions) else True
        state = account.state if account else None
        duties = duties_of(account) if account else ()
        sent = invited_at(account) if account else None
        lines.append(Ready(application_id, state, tuple(lacks), word, signed, tried, duties, sent))
    return tuple(lines)


def _open(account: Account, *, expected: bool) -> list[str]:
    if account.state is AccountState.DELETED:
        return ["deleted"]
    if not expected and account.state is not AccountState.ACTIVE:
        return [f"still {account.state.value}"]
    if sent := invited_at(account):
        return [f"invited on {sent:%-d %b}, not accepted"]
    return []


NOT_TRIED = "sign-in not tried yet"
REFUSED = "trial sign-in needs somebody"


def _tried(state: StepState | None) -> str:
    if state is None or state is StepState.LEFT_OUT:
        return ""
    if state is StepState.DONE:
        return "sign-in tried"
    return REFUSED if state in ASKING else NOT_TRIED


def _credential(state: CredentialState | None) -> str:
    if state is None:
        return ""
    if state.opened_at is not None:
        return "opened"
    if state.told_at is None:
        return "not told"
    return "link expired" if state.expired else "told"
