"""Why a docket exists: one dataclass a verb, and the one codec between them and their JSON."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

import msgspec

from yugum.core.applications import Duty
from yugum.core.approvals import Asked
from yugum.core.decisions import Decision
from yugum.core.documents import Document, sparse
from yugum.core.facts import Fields
from yugum.core.requests import PlanRequest
from yugum.core.verbs import Measure, Quick, Verb, title_of


@dataclass(frozen=True, slots=True, kw_only=True)
class Cause:
    """What every cause may say.

    ``basis`` is what made it due where nobody asked for it. ``needs`` names the approvals that must be
    given first, ``about`` what of the plan each is about; ``approval`` is true once it waited for them. ``decisions`` come with it, those ``over``
    end, for they were about the time before; ``left_out``
    maps steps that are not done to why. What is ``confidential`` keeps the ``request`` it is planned
    from again when it is fired.
    """

    basis: str = ""
    needs: tuple[str, ...] = ()
    about: Mapping[str, tuple[Asked, ...]] = field(default_factory=dict)
    approval: bool = False
    urgent: bool = False
    confidential: bool = False
    request: PlanRequest | None = None
    decisions: tuple[Decision, ...] = ()
    over: tuple[str, ...] = ()
    left_out: Mapping[str, str] = field(default_factory=dict)
    changes: Fields = field(default_factory=dict)
    applied: bool = True
    effective: datetime | None = None

    def came_true(self, due: datetime) -> datetime:
        """When its changes came true: its day, or for a fact known late the day it was."""
        return self.effective or due


NO_CAUSE = Cause()


@dataclass(frozen=True, slots=True, kw_only=True)
class JoinerCause(Cause):
    """Somebody begins, or their first day has come."""


@dataclass(frozen=True, slots=True, kw_only=True)
class MoverCause(Cause):
    """``changes`` say what somebody is from then on."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaverCause(Cause):
    """Somebody leaves; ``successor`` is who was named to take over.

    A row of a ``file`` has a ``reference`` and a ``reason`` of its own.
    """

    successor: str = ""
    file: str = ""
    reference: str = ""
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ReturnerCause(Cause):
    """Somebody is back from absence or hired again."""


@dataclass(frozen=True, slots=True, kw_only=True)
class AbsenceCause(Cause):
    """Somebody is away for a time."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RenameCause(Cause):
    """``renamed_from`` is the login before."""

    renamed_from: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ExtensionCause(Cause):
    """A fixed term goes on."""


@dataclass(frozen=True, slots=True, kw_only=True)
class UndoCause(Cause):
    """``undoes`` is the docket that is put back."""

    undoes: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class AccountCause(Cause):
    """A quick ``action`` on ``accounts``; in the applications ``ends`` earlier ones end by it.

    ``duties`` are what is asked for at the next sign-in. With a ``measure`` it is a precaution about the whole person, and the action what comes nearest.
    """

    action: Quick
    accounts: tuple[str, ...] = ()
    ends: tuple[str, ...] = ()
    duties: tuple[Duty, ...] = ()
    measure: Measure | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseCause(Cause):
    """One ``account``'s day to be closed has come."""

    account: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PurgeCause(CloseCause):
    """One ``account``'s window is over."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RecheckCause(Cause):
    """Somebody is looked at again; ``basis`` says why."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RevertCause(Cause):
    """The ``deviation``, made outside, is put back."""

    deviation: str


@dataclass(frozen=True, slots=True, kw_only=True)
class UpdateCause(Cause):
    """The attributes of somebody's accounts are brought in step again; ``basis`` says why."""


@dataclass(frozen=True, slots=True, kw_only=True)
class GroupCause(Cause):
    """A group (``account``) is made or changed: ``settings``, and its ``name`` where that is another."""

    account: str
    settings: Mapping[str, str] = field(default_factory=dict)
    name: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class CredentialCause(Cause):
    """A new credential for one ``account``, ``sealed`` where its owner chose it or it was ``typed``."""

    account: str
    sealed: str = ""
    typed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class KeysCause(Cause):
    """Keys of one ``account`` are replaced at some ``places``, or all; the old ones end ``until`` then."""

    account: str
    until: datetime
    places: tuple[str, ...] = ()


def title_of_cause(verb: Verb, cause: Cause) -> str:
    """What a plan or docket of a cause is called."""
    if isinstance(cause, AccountCause):
        return title_of(verb, cause.action, cause.measure or "")
    return title_of(verb, basis=cause.basis)


CAUSES: Mapping[Verb, type[Cause]] = {
    Verb.JOINER: JoinerCause,
    Verb.MOVER: MoverCause,
    Verb.LEAVER: LeaverCause,
    Verb.RETURNER: ReturnerCause,
    Verb.ABSENCE: AbsenceCause,
    Verb.RENAME: RenameCause,
    Verb.EXTENSION: ExtensionCause,
    Verb.UNDO: UndoCause,
    Verb.ACCOUNT: AccountCause,
    Verb.CLOSE: CloseCause,
    Verb.PURGE: PurgeCause,
    Verb.RECHECK: RecheckCause,
    Verb.REVERT: RevertCause,
    Verb.CREDENTIAL: CredentialCause,
    Verb.KEYS: KeysCause,
    Verb.UPDATE: UpdateCause,
    Verb.GROUP: GroupCause,
}


def cause_from(verb: Verb, document: Document) -> Cause:
    """The cause of a docket of ``verb`` from its JSON, as this or the version before wrote it.

    A docket of a verb that nobody asked for has no changes of its own to apply; what the version
    before left out means that.
    """
    return msgspec.convert(document, CAUSES[verb])


def cause_document(cause: Cause) -> Document:
    """A cause as JSON carries it: what is not said is left out, but what was said before always was.

    Readers of the version before index ``changes`` and take a missing ``applied`` for false.
    """
    said = dict(sparse(cause))
    if cause.decisions:
        said["decisions"] = [dict(decision_document(d)) for d in cause.decisions]
    return {**said, "changes": dict(cause.changes), "applied": cause.applied}


def decision_document(decision: Decision) -> Document:
    """A decision that comes with a docket, as JSON carries it."""
    document = msgspec.to_builtins(decision)
    document["payload"] = dict(decision.payload.document())
    return dict(document)
