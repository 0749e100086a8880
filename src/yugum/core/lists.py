"""What lists can be sorted by: declared once, the same in the reference, the service and the command line.

Each order has an index; so has each filter a list declares.
"""

from __future__ import annotations

from enum import StrEnum


class Order(StrEnum):
    """RFC 7644 3.4.2.3."""

    ASCENDING = "ascending"
    DESCENDING = "descending"


class PersonSort(StrEnum):
    """``begins`` and ``leaves``: who has no such day comes last."""

    NAME = "name"
    LOGIN = "login"
    NUMBER = "number"
    DEPARTMENT = "department"
    SITE = "site"
    BEGINS = "begins"
    LEAVES = "leaves"


class KnownValue(StrEnum):
    """Fields of people whose values are offered: the organisation has few of each."""

    DEPARTMENT = "department"
    SITE = "site"
    USER_TYPE = "user_type"


class AccountSort(StrEnum):
    """``application``: by application and login; ``used``: never used first."""

    APPLICATION = "application"
    USED = "used"


class DocketSort(StrEnum):
    """``due``: when it is or was due; ``number``: as they were made."""

    NUMBER = "number"
    DUE = "due"
