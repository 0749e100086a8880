"""Somebody as they were."""

from __future__ import annotations

from yugum.core.accounts import AccountState
from yugum.wire.common import Model, Moment, Seen


class AccountThen(Model):
    """As it was last seen until then."""

    application_name: str
    login: str
    state: Seen[AccountState]
    entitlements: list[str]
    seats: list[str]


class PersonThen(Model):
    """Somebody at a moment of the past: fields that had a value, and accounts that were known."""

    id: str
    display_name: str
    at: Moment
    fields: dict[str, str]
    accounts: list[AccountThen]
