"""Columns of a file about people: which field each is, by its name or as somebody says."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from difflib import get_close_matches
from enum import StrEnum

from yugum.core.conditions import fold
from yugum.core.lists import KnownValue
from yugum.core.people import OWN
from yugum.core.sheets import ADDED
from yugum.errors import InvalidInput


class FileKind(StrEnum):
    """What the rows of a file say: who somebody is, or that and when somebody leaves."""

    PEOPLE = "people"
    LEAVERS = "leavers"


BIRTHDAY = "birthday"
"""Of what stands in such a column only a digest is kept."""

PEOPLE: Mapping[str, tuple[str, ...]] = {
    "user_name": ("username", "login", "user", "account", "loginname"),
    "given_name": ("givenname", "firstname", "forename"),
    "family_name": ("familyname", "lastname", "surname"),
    "middle_name": ("middlename",),
    "honorific_prefix": ("honorificprefix", "prefix"),
    "honorific_suffix": ("honorificsuffix", "suffix"),
    "nick_name": ("nickname",),
    "display_name": ("displayname", "fullname", "name"),
    "employee_number": ("employeenumber", "number", "no", "staffnumber", "personnelnumber"),
    "user_type": ("usertype", "kind", "employment"),
    "department": ("department",),
    "division": ("division",),
    "organization": ("organization", "organisation", "company"),
    "cost_center": ("costcenter", "costcentre"),
    "title": ("title", "jobtitle", "position"),
    "site": ("site", "location", "office"),
    "manager": ("manager", "reportsto", "supervisor"),
    "time_zone": ("timezone",),
    "preferred_language": ("preferredlanguage", "language"),
    "locale": ("locale",),
    "mail": ("mail", "email", "workmail", "mailaddress"),
    "outside_mail": ("outsidemail", "privatemail", "personalmail", "outsideaddress"),
    "phone": ("phone", "telephone", "workphone"),
    "mobile": ("mobile", "mobilephone", "cellphone"),
    "groups": ("groups",),
    "starts": ("starts", "startdate", "firstday", "begins"),
    "contract_ends": ("contractends", "contractend", "termends"),
    BIRTHDAY: ("birthday", "birthdate", "dateofbirth", "dob", "born"),
    "another": ("another", "anotherperson"),
}
"""Fields of a person, and the names of columns that are taken for them (letters and digits only)."""
LEAVERS: Mapping[str, tuple[str, ...]] = {
    **{n: PEOPLE[n] for n in ("user_name", "employee_number", "display_name")},
    "at": ("accessends", "leaves", "leavingdate", "leaveson", "date", "enddate", "accessuntil"),
    "since": ("lefton", "left", "leftsince"),
    "last_day": ("lastworkingday", "lastdayatwork"),
    "contract_ends": PEOPLE["contract_ends"],
    "successor": ("successorlogin", "handoverto", "takesover"),
    "reason": ("why",),
    "reference": ("ticket", "case"),
}
"""What may be said of a leaver, alike."""
FIELDS = {FileKind.PEOPLE: PEOPLE, FileKind.LEAVERS: LEAVERS}
WHO = {
    FileKind.PEOPLE: ("user_name", "employee_number", "given_name", "family_name"),
    FileKind.LEAVERS: ("user_name", "employee_number", "display_name"),
}
"""One of these must have a column."""
BORN = frozenset(PEOPLE[BIRTHDAY])
SECRETS = frozenset({"password", "initialpassword", "startpassword", "pin", "secret", "passphrase"})
"""Columns that are struck before anything is kept."""


def plain(name: str) -> str:
    """A column's name without what people write differently."""
    return re.sub(r"[^a-z0-9]", "", name.lower())


LEFT_OUT = frozenset(map(plain, ADDED))
"""What a file of rejected rows has more than the file."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FileColumn:
    """A column of a file, and the field it is; "" for one that is left out."""

    name: str
    field: str = ""
    secret: bool = False


def names_columns(head: Sequence[str], kind: FileKind) -> bool:
    """Whether the first row of a file names columns; a list of logins has none."""
    names = {n for f, others in FIELDS[kind].items() for n in (plain(f), *others)}
    return any(plain(name) in names for name in head)


def columns_of(
    head: Sequence[str],
    own: Iterable[str],
    said: Mapping[str, str],
    *,
    kind: FileKind = FileKind.PEOPLE,
    leave: bool = False,
) -> tuple[FileColumn, ...]:
    """Which column is what: as ``said`` (column: field, or "" to leave it out), else by its name.

    ``own`` are the organisation's own attributes. With ``leave`` a column that nobody knows is left out
    until somebody says what it is.

    Raises:
        InvalidInput: a column or field is unknown, a field has two columns, or none says who somebody is.
    """
    fields = {n: (plain(n), *names) for n, names in FIELDS[kind].items()}
    if kind is FileKind.PEOPLE:
        fields |= {f"{OWN}{n}": (plain(n), plain(f"{OWN}{n}")) for n in own}
    by_name = {name: f for f, names in fields.items() for name in names}
    corrected = {fold(name): (name, f) for name, f in said.items()}
    if strange := [n for k, (n, _) in corrected.items() if k not in {fold(h) for h in head}]:
        raise InvalidInput(
            f"The file has no column {strange[0][:60]}.",
            place="columns",
            remedy=f"It has: {', '.join(head)}.",
        )
    found = []
    for name in head:
        key = plain(name)
        if key in SECRETS:
            found.append(FileColumn(name=name, secret=True))
        elif key in LEFT_OUT:
            found.append(FileColumn(name=name))
        else:
            _, meant = corrected.get(fold(name), ("", by_name.get(key)))
            if key in BORN and meant != BIRTHDAY:  # left out: nobody may keep it all the same
                found.append(FileColumn(name=name, secret=True))
                continue
            if meant is None and leave:
                meant = ""
            found.append(FileColumn(name=name, field=_known(name, meant, fields, by_name)))
    _must_be_clear(found, WHO[kind], leave=leave)
    return tuple(found)


def _known(
    name: str, meant: str | None, fields: Mapping[str, tuple[str, ...]], by_name: Mapping[str, str]
) -> str:
    if meant is None:
        near = get_close_matches(plain(name), by_name, 1)
        hint = f"{name}={by_name[near[0]]}" if near else f"{name}=FIELD"
        raise InvalidInput(
            f"Nobody knows what the column {name[:60]} is.",
            place="columns",
            remedy=f"Say it (--column '{hint}'), or leave it out (--column '{name}=').",
        )
    if meant and meant not in fields:
        raise InvalidInput(
            f"'{meant[:60]}' is not a field of such a file.",
            place="columns",
            remedy=f"Use one of: {', '.join(fields)}.",
        )
    return meant


def _must_be_clear(columns: Sequence[FileColumn], who: Sequence[str], *, leave: bool) -> None:
    times = Counter(c.field for c in columns if c.field)
    if twice := next((f for f, n in times.items() if n > 1), ""):
        names = " and ".join(c.name for c in columns if c.field == twice)
        raise InvalidInput(
            f"{names} are both {twice}.",
            place="columns",
            remedy="Leave one out: --column 'NAME='.",
        )
    if not leave and not {*who} & times.keys():
        raise InvalidInput(
            "No column says who somebody is.",
            place="columns",
            remedy=f"Name one of {', '.join(n.replace('_', ' ') for n in who)}.",
        )


def pairs(said: Iterable[str], place: str) -> list[tuple[str, str]]:
    """``NAME=FIELD`` of columns, whose own names may have a = in them, or ``FIELD=VALUE`` of values.

    Raises:
        InvalidInput: one says nothing of something.
    """
    found = []
    of_columns = place.endswith("column")
    for text in said:
        first, sign, last = text.rpartition("=") if of_columns else text.partition("=")
        if not sign or not first.strip():
            raise InvalidInput(
                f"'{text[:60]}' does not say what is what.",
                place=place,
                remedy="Write NAME=FIELD." if of_columns else "Write FIELD=VALUE.",
            )
        found.append((first.strip(), last))
    return found


def accepted_of(said: Iterable[str], place: str) -> dict[KnownValue, list[str]]:
    """New values that are right, by field.

    Raises:
        InvalidInput: a field is not one of few values.
    """
    found: dict[KnownValue, list[str]] = {}
    for field_name, value in pairs(said, place):
        if field_name not in list(KnownValue):
            raise InvalidInput(
                f"New values of {field_name[:60]} need nobody's word.",
                place=place,
                remedy=f"Only those of {', '.join(KnownValue)}.",
            )
        found.setdefault(KnownValue(field_name), []).append(value)
    return found
