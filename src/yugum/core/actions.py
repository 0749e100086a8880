"""The actions a step can take: one table that says of each what follows from it.

Everything that plans, runs, settles or undoes a step reads this table, so a new action is a row
here, a method of the connectors and a line in ``core.effects``.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from yugum.core.applications import Capability


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
    RESUME = "resume"
    GRANT = "grant"
    REVOKE = "revoke"
    TAKE_SEAT = "take_seat"
    FREE_SEAT = "free_seat"
    SET = "set"
    TRANSFER = "transfer"
    SET_CREDENTIAL = "set_credential"
    DELETE = "delete"
    PARK = "park"
    RESTORE = "restore"
    PURGE = "purge"
    ARCHIVE = "archive"
    REOPEN = "reopen"
    RENAME = "rename"
    RUN = "run"


ADDING = frozenset(
    {
        Action.CREATE,
        Action.RESUME,
        Action.RESTORE,
        Action.GRANT,
        Action.TAKE_SEAT,
        Action.SET_CREDENTIAL,
        Action.RUN,
    }
)
"""What may be done in an application that is trusted to be added to."""

TAKING = frozenset(
    {
        Action.REVOKE,
        Action.FREE_SEAT,
        Action.TRANSFER,
        Action.DELETE,
        Action.PARK,
        Action.ARCHIVE,
        Action.PURGE,
    }
)
"""What counts against an application's ceiling an hour; cut-offs are never held up."""


class Settle(StrEnum):
    """How a crash between intent and receipt is settled."""

    OBSERVABLE = "observable"
    REPEAT_SAFE = "repeat-safe"
    ASK = "ask"


@dataclass(frozen=True, slots=True)
class ActionSpec:
    """What is known of an action: ``inverse`` is what undo does, None when there is no way back."""

    phase: Phase
    settle: Settle
    needs: Capability | None
    inverse: Action | None
    past: str
    irreversible: bool = False


ACTIONS: Mapping[Action, ActionSpec] = {
    Action.CREATE: ActionSpec(Phase.ACCOUNT, Settle.OBSERVABLE, None, Action.DELETE, "created"),
    Action.CUT_OFF: ActionSpec(
        Phase.SECURE, Settle.OBSERVABLE, Capability.SUSPEND, Action.RESUME, "cut off"
    ),
    Action.RESUME: ActionSpec(
        Phase.ACCOUNT, Settle.OBSERVABLE, Capability.SUSPEND, Action.CUT_OFF, "resumed"
    ),
    Action.GRANT: ActionSpec(
        Phase.ACCESS, Settle.OBSERVABLE, Capability.ENTITLEMENTS, Action.REVOKE, "granted"
    ),
    Action.REVOKE: ActionSpec(
        Phase.RECLAIM, Settle.OBSERVABLE, Capability.ENTITLEMENTS, Action.GRANT, "removed"
    ),
    Action.TAKE_SEAT: ActionSpec(
        Phase.ACCESS, Settle.OBSERVABLE, None, Action.FREE_SEAT, "seat taken"
    ),
    Action.FREE_SEAT: ActionSpec(
        Phase.RECLAIM, Settle.OBSERVABLE, None, Action.TAKE_SEAT, "seat freed"
    ),
    Action.SET: ActionSpec(
        Phase.RECLAIM, Settle.OBSERVABLE, Capability.SETTINGS, Action.SET, "set"
    ),
    Action.ARCHIVE: ActionSpec(
        Phase.CLOSE, Settle.OBSERVABLE, Capability.ARCHIVE, Action.REOPEN, "archived"
    ),
    Action.REOPEN: ActionSpec(
        Phase.ACCOUNT, Settle.OBSERVABLE, Capability.ARCHIVE, Action.ARCHIVE, "reopened"
    ),
    Action.RENAME: ActionSpec(
        Phase.ACCOUNT, Settle.OBSERVABLE, Capability.RENAME, Action.RENAME, "renamed"
    ),
    Action.RUN: ActionSpec(Phase.ACCESS, Settle.OBSERVABLE, Capability.RUN, Action.RUN, "run"),
    Action.TRANSFER: ActionSpec(
        Phase.HAND_OVER, Settle.OBSERVABLE, Capability.ASSETS, Action.TRANSFER, "handed over"
    ),
    Action.SET_CREDENTIAL: ActionSpec(
        Phase.CREDENTIAL, Settle.REPEAT_SAFE, Capability.CREDENTIAL, None, "credential set"
    ),
    Action.DELETE: ActionSpec(
        Phase.CLOSE, Settle.OBSERVABLE, Capability.DELETE, Action.RESTORE, "deleted"
    ),
    Action.PARK: ActionSpec(
        Phase.CLOSE, Settle.OBSERVABLE, Capability.SUSPEND, Action.RESTORE, "parked"
    ),
    Action.RESTORE: ActionSpec(Phase.ACCOUNT, Settle.OBSERVABLE, None, Action.DELETE, "restored"),
    Action.PURGE: ActionSpec(
        Phase.PURGE, Settle.OBSERVABLE, Capability.PURGE, None, "purged", irreversible=True
    ),
}
