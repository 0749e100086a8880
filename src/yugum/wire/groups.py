"""Groups themselves: what they are called, whose they are, who may write to them."""

from __future__ import annotations

from yugum.core.accounts import AccountState
from yugum.wire.common import Model, Moment, Seen


class GroupRow(Model):
    """``members`` counts open accounts in it; ``owner_left`` says that its owner is not there any more."""

    id: str
    application_id: str
    application_name: str
    name: str
    state: Seen[AccountState]
    back_until: Moment | None
    owner_id: str | None
    owner_name: str | None
    owner_left: bool
    address: str
    outside_senders: str
    description: str
    members: int
