"""Names: logins, addresses and names built by patterns, each suggestion with its reasons."""

from __future__ import annotations

import re
import string
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

from anyascii import anyascii

PLACE = re.compile(r"\{([a-z_|]+)(?::(\d+))?\}")
FIELDS = ("given", "family", "login", "number", "department", "site", "mail_domain")
LONGEST_NUMBER = 999
LOGIN_ALPHABET = string.ascii_lowercase + string.digits + ".-_"


class NameKind(StrEnum):
    """What a name is for."""

    LOGIN = "login"
    MAIL = "mail"
    ALIAS = "alias"
    DISPLAY_NAME = "display_name"
    HOME = "home"


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """What an application takes as a login."""

    length: int = 64
    alphabet: str = LOGIN_ALPHABET


@dataclass(frozen=True, slots=True, kw_only=True)
class NameRules:
    """Patterns by kind, the first that gives a free name wins; ``quarantine_days`` for logins.

    In a pattern ``{given}`` is a field, ``{given:1}`` its first letter, ``{given|family}`` the
    first of two that is there.
    """

    patterns: Mapping[NameKind, tuple[str, ...]] = field(
        default_factory=lambda: {
            NameKind.LOGIN: ("{given:1}{family}",),
            NameKind.DISPLAY_NAME: ("{given} {family}",),
        }
    )
    domains: tuple[str, ...] = ()
    quarantine_days: int = 1825
    length: int = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class NameFields:
    """What names are made of."""

    given: str = ""
    family: str = ""
    number: str = ""
    department: str = ""
    site: str = ""
    mail_domain: str = ""


@dataclass(frozen=True, slots=True)
class Tried:
    """One name that was considered: ``problem`` is empty for the one to take."""

    name: str
    pattern: str
    problem: str = ""


@dataclass(frozen=True, slots=True)
class Suggestion:
    """A name with all that was tried before it; ``name`` is "" when every pattern failed."""

    kind: NameKind
    name: str
    tried: tuple[Tried, ...]


def places(pattern: str) -> Iterator[str]:
    """The fields a pattern reads."""
    for match in PLACE.finditer(pattern):
        yield from match[1].split("|")


def transliterated(text: str) -> str:
    """Latin letters for every script; apostrophes vanish, ``Zoë O'Neill`` is ``Zoe ONeill``."""
    return anyascii(text.replace("'", "").replace("’", "").replace("ʼ", ""))


def plain(text: str, alphabet: str) -> str:
    """Lower-case letters of ``alphabet`` only; blanks vanish, other signs too."""
    return "".join(c for c in transliterated(text).lower() if c in alphabet)


def filled(pattern: str, fields: Mapping[str, str], as_is: bool) -> str:
    """A pattern with its places filled; "" when a field it needs is missing."""
    missing = False

    def fill(match: re.Match[str]) -> str:
        nonlocal missing
        value = next((v for n in match[1].split("|") if (v := fields.get(n, "").strip())), "")
        if not value:
            missing = True
        if not as_is:
            value = plain(value, LOGIN_ALPHABET)
        return value[: int(match[2])] if match[2] else value

    name = PLACE.sub(fill, pattern)
    return "" if missing else name


def suggest(
    kind: NameKind,
    rules: NameRules,
    fields: Mapping[str, str],
    taken: Mapping[str, str],
    limits: Limits,
) -> Suggestion:
    """The first name that fits and that is not ``taken``, numbered if need be.

    ``taken`` says of names why they cannot be had.
    """
    tried: list[Tried] = []
    patterns = rules.patterns.get(kind, ())
    as_is = kind is NameKind.DISPLAY_NAME
    for pattern in patterns:
        name = filled(pattern, fields, as_is)
        if not name:
            lacking = [p for p in places(pattern) if not fields.get(p, "").strip()]
            tried.append(Tried("", pattern, f"{', '.join(lacking)} is missing"))
            continue
        cut, problem = _shortened(kind, name, limits)
        if problem:
            tried.append(Tried(name, pattern, problem))
            continue
        if not (problem := taken.get(cut, "")):
            return Suggestion(kind, cut, (*tried, Tried(cut, pattern)))
        tried.append(Tried(cut, pattern, problem))
    if as_is or kind is NameKind.HOME:
        return Suggestion(kind, tried[-1].name if tried else "", tuple(tried))
    for pattern in patterns:
        for number in range(2, LONGEST_NUMBER):
            name = filled(pattern, fields, as_is)
            if not name or _shortened(kind, name, limits)[1]:
                break  # a number makes it no better
            numbered = _numbered(kind, name, number, limits)
            if not (problem := taken.get(numbered, "")):
                return Suggestion(kind, numbered, (*tried, Tried(numbered, pattern)))
            tried.append(Tried(numbered, pattern, problem))
    return Suggestion(kind, "", tuple(tried))


def _shortened(kind: NameKind, name: str, limits: Limits) -> tuple[str, str]:
    if kind is not NameKind.LOGIN:
        return name, ""
    wrong = sorted({c for c in name if c not in limits.alphabet})
    if wrong:
        return name, f"an application does not take {' '.join(wrong)}"
    if len(name) > limits.length:
        return name[: limits.length], ""
    return name, ""


def _numbered(kind: NameKind, name: str, number: int, limits: Limits) -> str:
    text = str(number)
    if kind is NameKind.LOGIN:
        return name[: limits.length - len(text)] + text
    local, at, domain = name.partition("@")
    return f"{local}{text}{at}{domain}"


class Taken(StrEnum):
    """By whom a login is taken, the first that there is."""

    PERSON = "person"
    LEAVER = "leaver"
    ACCOUNT = "account"
    QUARANTINE = "quarantine"


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenLogin:
    """Why a login cannot be had: ``holder`` is a person's or an application's name."""

    login: str
    by: Taken
    holder: str = ""
    until: datetime | None = None

    def told(self) -> str:
        match self.by:
            case Taken.PERSON:
                return f"{self.holder} has it"
            case Taken.LEAVER:
                return f"was the login of {self.holder}, who has left"
            case Taken.ACCOUNT:
                return f"{self.holder} has an account of that login"
            case Taken.QUARANTINE:
                return f"was a login until {self.until:%Y-%m-%d}, kept in quarantine"
