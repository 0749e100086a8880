"""What stands on a slip with a credential."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Slip:
    """What one account's owner is given on paper."""

    name: str
    department: str
    site: str
    application: str
    login: str
    secret: str
    must_change: bool
