"""The actions a step can take. Each has a module that says everything about it.

What it needs, its phase, when it is fulfilled, what it shows before and after, how a crash is
settled, how it is taken back, and its words. ``registry.ACTIONS`` is all of them by name; planning,
lanes, undo, approvals and summaries read it. A new action is a member of `Action`, a module here, a line
in the registry and a case in the connectors that can do it.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from enum import StrEnum
from typing import TYPE_CHECKING

import msgspec

from yugum.core.accounts import Account, AccountState, Asset, HoldingKind, Observed
from yugum.core.applications import Capability
from yugum.core.documents import Document, sparse
from yugum.core.wording import plural

if TYPE_CHECKING:
    from yugum.core.applications import Application
    from yugum.core.decisions import LedgerKey, Origin
    from yugum.core.dockets import DoneStep, Step
    from yugum.core.drafts import Draft
    from yugum.core.fidelity import Undoing

GONE = (AccountState.DELETED, AccountState.PURGED)


class Phase(StrEnum):
    """The order in which the steps of one application's lane run."""

    SECURE = "secure"
    MAIL = "mail"
    HAND_OVER = "hand over"
    RECLAIM = "reclaim"
    ACCOUNT = "account"
    ACCESS = "access"
    CREDENTIAL = "credential"
    CLOSE = "close"
    PURGE = "purge"


PHASE_ORDER: Mapping[Phase, int] = {phase: index for index, phase in enumerate(Phase)}


class Action(StrEnum):
    CREATE = "create"
    CUT_OFF = "cut_off"
    LOCK = "lock"
    END_DEVICES = "end_devices"
    RESUME = "resume"
    GRANT = "grant"
    REVOKE = "revoke"
    TAKE_SEAT = "take_seat"
    FREE_SEAT = "free_seat"
    SET = "set"
    UPDATE = "update"
    TRANSFER = "transfer"
    COPY = "copy"
    CALL_OFF = "call_off"
    REDIRECT = "redirect"
    REPLACE_KEY = "replace_key"
    TRY_SIGN_IN = "try_sign_in"
    INVITE = "invite"
    REQUIRE = "require"
    SET_CREDENTIAL = "set_credential"
    DELETE = "delete"
    PARK = "park"
    RESTORE = "restore"
    PURGE = "purge"
    ARCHIVE = "archive"
    REOPEN = "reopen"
    RENAME = "rename"
    RUN = "run"


class Settle(StrEnum):
    """How a crash between intent and receipt is settled."""

    OBSERVABLE = "observable"
    REPEAT_SAFE = "repeat-safe"
    ASK = "ask"


@dataclass(frozen=True, slots=True)
class Rival:
    """An entitlement of an account beside which another is not given."""

    account: str
    item: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Arguments:
    """What a step is told besides its item; each action reads the fields it knows.

    Of an account: ``login``, names, ``mail``, ``employee_number``, ``settings``, ``attributes``, ``closed``
    (made suspended), ``duties`` of the first sign-in. Of a setting or an attribute: ``value``, what it ``was``, the ``ground`` on which. Of a transfer: who
    receives (``to_…``), who has it now where that is not the step's account (``from_external_id``),
    and which items ``only``. Of an own step: its ``run``, ``verb``, ``person``, whether it is put
    ``back`` and may be (``undo``). Of a credential: ``sealed`` (encrypted, base64) where its owner
    chose it, ``must_change`` at the first sign-in. ``until`` is when something parked ends, or a key that was replaced, ISO 8601;
    ``contact`` who gets the new one; ``again`` is said with the call where an attempt was made before.
    Of a grant: what must be seen gone before (``after``). Of a cut-off: whether keys
    go on (``keys_kept``). Of an account that another one takes the place of: which (``replaced_by``). Of a place that names somebody: who stands instead (``swaps``), the application's id of it (``place``). ``urgent`` is said with the call: somebody who
    does it by hand has less time.
    """

    login: str = ""
    display_name: str = ""
    given_name: str = ""
    family_name: str = ""
    mail: str = ""
    employee_number: str = ""
    settings: Mapping[str, str] = field(default_factory=dict)
    attributes: Mapping[str, str] = field(default_factory=dict)
    closed: bool = False
    duties: tuple[str, ...] = ()
    value: str = ""
    was: str = ""
    ground: str = ""
    to_name: str = ""
    to_account: str = ""
    to_external_id: str = ""
    from_external_id: str = ""
    only: tuple[str, ...] | None = None
    run: str = ""
    verb: str = ""
    person: Mapping[str, str] = field(default_factory=dict)
    undo: bool = False
    back: bool = False
    sealed: str = ""
    must_change: bool | None = None
    until: str = ""
    after: tuple[Rival, ...] = ()
    urgent: bool = False
    keys_kept: bool = False
    replaced_by: str = ""
    swaps: Mapping[str, str] = field(default_factory=dict)
    place: str = ""
    contact: str = ""
    again: bool = False

    def document(self) -> Document:
        """As JSON carries it: what is not said is left out."""
        return {} if self is NO_ARGUMENTS else sparse(self)


NO_ARGUMENTS = Arguments()
TO_BE_MADE = "to be made"
"""Stands for the account that the same plan makes in the application, until that has an id."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Done:
    """What an application was made to do, for the receipt; never a secret.

    ``task`` is the id of the task somebody was given instead; ``assets`` moved to ``to``, or are the copies made of those
    ``copied``, in the same order; ``ended`` counts what a cut-off ended by kind; ``values`` are settings as they were made.
    """

    external_id: str = ""
    login: str = ""
    task: str = ""
    until: str = ""
    note: str = ""
    to: str = ""
    kept_by: str = ""
    license: str = ""
    assets: tuple[Asset, ...] = ()
    copied: tuple[str, ...] = ()
    suspended: bool = False
    password_replaced: bool = False
    ended: Mapping[str, int] = field(default_factory=dict)
    values: Mapping[str, str] = field(default_factory=dict)

    def document(self) -> Document:
        return {} if self is NOTHING_DONE else sparse(self)


@dataclass(frozen=True, slots=True, kw_only=True)
class Facet:
    """The part of an observation that a step is about, for its receipt; None is not part of it.

    ``account`` is a state, or ``none``. ``value`` of a setting and ``login`` may be "". What an account
    held (``entitlements``, ``seats``) is told of one that ends: not every application gives it back.
    """

    account: str | None = None
    sessions: int | None = None
    keys: int | None = None
    back_until: str | None = None
    entitlement: str | None = None
    seat: str | None = None
    held: bool | None = None
    setting: str | None = None
    value: str | None = None
    login: str | None = None
    step: str | None = None
    run: str | None = None
    kind: str | None = None
    owned: int | None = None
    devices: int | None = None
    entitlements: tuple[str, ...] | None = None
    seats: tuple[str, ...] | None = None

    def document(self) -> Document:
        """As JSON carries it; written by hand, for a receipt carries two of them."""
        return {name: said for name in FACETS if (said := getattr(self, name)) is not None}

    def __bool__(self) -> bool:
        return any(getattr(self, name) is not None for name in FACETS)

    def told(self) -> str:
        """``suspended, 2 sessions`` for people."""
        if self.held is not None:
            return "held" if self.held else "not held"
        if self.login is not None:
            return self.login
        if self.step is not None:
            return "run" if self.run else "not run"
        if self.setting is not None:
            return self.value or "nothing"
        if self.owned is not None:
            return f"{self.owned} owned"
        if self.devices is not None:
            return plural(self.devices, "trusted device")
        counts = {"session": self.sessions, "key": self.keys}
        parts = [self.account or "", *(plural(n, word) for word, n in counts.items() if n)]
        return ", ".join(p for p in parts if p)


FACETS = tuple(f.name for f in fields(Facet))
NOTHING_DONE = Done()
NOT_SHOWN = Facet()


def arguments_from(document: Document) -> Arguments:
    """The arguments that `Arguments.document` wrote; what this version does not know is left out."""
    return msgspec.convert(document, Arguments)


def describe(before: Facet, after: Facet) -> str:
    """``active, 2 sessions → suspended`` for people."""
    return f"{before.told()} → {after.told()}"


EVERYTHING = frozenset(Action)
STRUCTURE = frozenset(
    {Action.CREATE, Action.RESTORE, Action.REOPEN, Action.RESUME, Action.CUT_OFF, Action.LOCK}
)
"""While one of these cannot be done, what follows for the same account makes no sense."""


@dataclass(frozen=True, slots=True)
class Needs:
    """``capability`` of the application, enforced when a step is drafted; ``after``: unsettled steps
    of the same account before it with one of these actions hold it up, which lanes obey."""

    capability: Capability | None = None
    after: frozenset[Action] = STRUCTURE


@dataclass(frozen=True, slots=True, kw_only=True)
class Words:
    """How people read of an action.

    ``past`` in a record (``granted``), ``does`` on the command line (``grant``), ``task`` what the
    owner of an application without an interface is asked to do. A summary counts it: ``counted`` is
    what (one, many), ``first`` whether it belongs to the summary's first sentence.
    """

    past: str
    does: str
    counted: tuple[str, str]
    counted_past: str
    first: bool = False
    task: str = ""


class ActionSpec(ABC):
    """Everything about one action; a module of this package has a subclass for each."""

    action: Action
    phase: Phase
    needs: Needs
    words: Words
    settle: Settle = Settle.OBSERVABLE
    irreversible = False
    """Whether there is no way back at all."""
    announced = False
    """Whether others are told of it: an undo does not bring it back, though the account stays."""
    barred_by_hold = False
    """Whether a hold on the person or the application forbids it."""
    adds = False
    """Whether it may be done in an application that is trusted to be added to."""
    takes = False
    """Whether it counts against an application's ceiling an hour; cut-offs are never held up."""
    gives = False
    """Whether it gives somebody something that a role may need an approval for."""
    lists_assets = False
    """Whether observing for it must list what the account owns."""
    reads_mention = False
    """Whether observing for it must read the place that ``item`` is."""
    readable = True
    """Whether looking shows that it was done."""
    blind = False
    """Whether looking beforehand cannot show that it was done; afterwards it can be read back."""
    secret = False
    """Whether a credential is made for it, or comes with it."""
    throwaway = False
    """Whether that is used once and kept by nobody."""
    comes_with: frozenset[Action] = frozenset()
    """The actions that it is planned along with, by ``come_along``."""
    told_until = False
    """Whether it is told when, by our own window, the account cannot come back any more."""
    seats = 0
    """Seats of ``item`` that it takes (1) or gives back (-1); these are claimed before any call."""

    @abstractmethod
    def fulfilled(self, item: str, seen: Observed | None, arguments: Arguments) -> bool:
        """Whether nothing (more) is to be done."""

    def gave(self, did: Done) -> bool:
        """Whether the credential that was made for it is of use to anybody."""
        return True

    def facet(self, item: str, seen: Observed) -> Facet:
        """The part of an observation that the step is about."""
        return account_facet(seen, bool(seen.sessions or seen.keys))

    def come_along(  # noqa: B027 - most actions come with no other
        self, draft: Draft, application: Application, account: Account, reason: str
    ) -> None:
        """Plan it beside one of the actions that it ``comes_with``, where there is anything to do."""

    def origins(self, step: Step) -> tuple[tuple[LedgerKey, Origin | None], ...]:
        """What the ledger says once the step is done; None takes an entry away."""
        return ()

    @abstractmethod
    def take_back(self, undoing: Undoing, account: Account, step: DoneStep) -> None:
        """Plan and report the way back from a step that was done, as things stand now."""

    def after_task(
        self,
        before: Observed,
        item: str,
        arguments: Arguments,
    ) -> Observed | None:
        """The account in the book of an application without interface once somebody did it."""
        return before


def account_facet(seen: Observed, with_ways_in: bool) -> Facet:
    """The account's state, and with its sessions and keys if so asked."""
    until = seen.recoverable_until
    return Facet(
        account=seen.state.value,
        sessions=seen.sessions if with_ways_in else None,
        keys=seen.keys if with_ways_in else None,
        back_until=until.isoformat() if until is not None else None,
    )


def held_facet(kind: HoldingKind, item: str, held: bool) -> Facet:
    """Whether an entitlement or a seat is held."""
    if kind is HoldingKind.SEAT:
        return Facet(seat=item, held=held)
    return Facet(entitlement=item, held=held)
