"""Retention windows: when an account is closed, how long it can come back, when it is gone.

Windows are so many times 24 hours; delays are calendar days in the person's zone.
A promise to restore uses the earliest reading of a window, a purge the latest; the application's
own word (``recoverable_until`` as reported) comes before ours.
"""

from __future__ import annotations

from datetime import datetime, timedelta

from yugum.core.accounts import Account, AccountState
from yugum.core.applications import Application, Deletion, effective_deletion
from yugum.core.dates import days_later

MAIL_SETTINGS = frozenset({"forward", "reply"})
"""Settings by which a leaver's mail goes on; they are made in the phase of that name."""


def close_due(ended: datetime, application: Application, zone: str) -> datetime:
    """When an account is closed that nothing gives since ``ended``: calendar days in a zone later."""
    return days_later(ended, application.profile.close_after_days, zone)


def setting_ends(
    access_ended: datetime, application: Application, zone: str
) -> dict[str, datetime]:
    """When a leaver's settings go back to the standard, by name; those that stay are not there."""
    days = application.profile.leaver_setting_days
    return {name: days_later(access_ended, n, zone) for name, n in days.items()}


def mail_days(application: Application) -> int:
    """How many days after the access ended a leaver's mail goes on; without an end until the account is closed."""
    profile = application.profile
    told = MAIL_SETTINGS & profile.leaver_settings.keys()
    days = [profile.leaver_setting_days.get(n, profile.close_after_days) for n in told]
    return max(days, default=0)


def recoverable_until(deleted_at: datetime, application: Application) -> datetime:
    """The first moment at which something deleted now cannot come back."""
    if effective_deletion(application) is Deletion.FINAL:
        return deleted_at
    return deleted_at + timedelta(days=application.profile.window_days)


def can_come_back(account: Account, at: datetime) -> bool:
    """Whether a deleted account can be restored at a moment; the end itself is too late."""
    if account.state is not AccountState.DELETED:
        return False
    return account.recoverable_until is None or at < account.recoverable_until
