"""Operators: the roles of those who work with Yugum."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum


class OperatorRole(StrEnum):
    VIEWER = "viewer"
    OPERATOR = "operator"
    ADMINISTRATOR = "administrator"


RANK: Mapping[OperatorRole, int] = {role: rank for rank, role in enumerate(OperatorRole)}
"""Whoever ranks higher may do what the lower may."""
