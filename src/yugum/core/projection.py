"""What Yugum keeps of an account after it was looked at."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from yugum.core.accounts import Account, AccountState, Observed
from yugum.core.applications import Application
from yugum.core.windows import recoverable_until


def project(
    account: Account,
    seen: Observed | None,
    at: datetime,
    *,
    application: Application | None = None,
) -> Account:
    """The account as it is now known.

    Something no longer there is purged. A deletion whose end the application does not report is
    recoverable as long as the profile (``application``) says.
    """
    if seen is None:
        return replace(
            account,
            state=AccountState.PURGED,
            entitlements=frozenset(),
            seats=frozenset(),
            sessions=0,
            keys=0,
            assets=(),
            seen_at=at,
        )
    until = seen.recoverable_until
    if seen.state is AccountState.DELETED and until is None:
        until = account.recoverable_until
        if until is None and application is not None:
            until = recoverable_until(at, application)
    return replace(
        account,
        external_id=seen.external_id,
        login=seen.login,
        state=seen.state,
        entitlements=seen.entitlements,
        seats=account.seats if seen.seats is None else seen.seats,
        sessions=seen.sessions,
        keys=seen.keys,
        settings=dict(seen.settings),
        recoverable_until=until if seen.state is AccountState.DELETED else None,
        assets=account.assets if seen.assets is None else seen.assets,
        seen_at=at,
    )
