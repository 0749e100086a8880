"""Every action by name."""

from __future__ import annotations

from collections.abc import Mapping

from yugum.core.accounts import Observed
from yugum.core.actions import Action, ActionSpec, Arguments, Facet
from yugum.core.actions.archive import Archive, Reopen
from yugum.core.actions.call_off import CallOff
from yugum.core.actions.copying import Copy
from yugum.core.actions.create import Create
from yugum.core.actions.credential import SetCredential
from yugum.core.actions.cut_off import CutOff, Resume
from yugum.core.actions.delete import Delete, Park, Purge, Restore
from yugum.core.actions.devices import EndDevices
from yugum.core.actions.grant import Grant, Revoke
from yugum.core.actions.invite import Invite, Require
from yugum.core.actions.lock import Lock
from yugum.core.actions.redirect import Redirect
from yugum.core.actions.rename import Rename
from yugum.core.actions.replace_key import ReplaceKey
from yugum.core.actions.run import Run
from yugum.core.actions.seat import FreeSeat, TakeSeat
from yugum.core.actions.set import Set
from yugum.core.actions.transfer import Transfer
from yugum.core.actions.trial import TrySignIn
from yugum.core.actions.update import Update

ACTIONS: Mapping[Action, ActionSpec] = {
    spec.action: spec
    for spec in (
        CutOff(),
        Lock(),
        EndDevices(),
        Create(),
        Rename(),
        Restore(),
        Resume(),
        Archive(),
        Reopen(),
        Delete(),
        Park(),
        Purge(),
        Revoke(),
        Grant(),
        FreeSeat(),
        TakeSeat(),
        Transfer(),
        Copy(),
        CallOff(),
        Redirect(),
        ReplaceKey(),
        Set(),
        Update(),
        TrySignIn(),
        SetCredential(),
        Invite(),
        Require(),
        Run(),
    )
}
"""In the order in which summaries name them."""


COMING_ALONG: Mapping[Action, tuple[ActionSpec, ...]] = {
    action: tuple(spec for spec in ACTIONS.values() if action in spec.comes_with)
    for action in Action
}
"""What is planned along with an action, by the actions it comes with."""


def observed_facet(action: Action, item: str, seen: Observed | None) -> Facet:
    """The part of an observation that a step is about; an account that is not there is ``none``."""
    return Facet(account="none") if seen is None else ACTIONS[action].facet(item, seen)


def is_fulfilled(action: Action, item: str, seen: Observed | None, arguments: Arguments) -> bool:
    """Whether a step has nothing (more) to do."""
    return ACTIONS[action].fulfilled(item, seen, arguments)
