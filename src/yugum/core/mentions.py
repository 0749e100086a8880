"""Places that name somebody without being owned by them: a typed-in recipient, a schedule, a chain of escalation.

An address or a login counts where it stands by itself: the whole address, the whole word.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import ahocorasick

from yugum.core.accounts import Account, AccountState
from yugum.core.people import Person

WORD = re.compile(r"[\w.+\-]+(?:@[\w.+\-]*)*")
"""An address or a word as it stands in a text; a full stop at its end is the sentence's, an @ before it calls it."""
BESIDE = ",;:()<>[]{}\"'"
"""What often stands beside a word and belongs to none."""
LISTED = re.compile(r"\s*[,;]\s*")
LONGEST = 100_000
"""Characters of one place that are searched."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Mention:
    """A place in an application with its ``text``, and what stops working while somebody in it is gone.

    ``key`` is the application's own id of it, ``kind`` what it is there (alert, schedule, escalation), ``place``
    where it stands, the wider parts first. ``fixable`` says that the text can be changed from outside, ``replaceable``
    that it is a key whose login ``text`` is, in place of which the application takes one of another account.
    ``contact`` is the address of whoever answers for it.
    """

    application_id: str
    key: str
    kind: str
    place: str
    text: str
    effect: str = ""
    fixable: bool = False
    replaceable: bool = False
    contact: str = ""


def words_in(text: str) -> set[str]:
    """Every address and word of a text, folded."""
    return {m.group().rstrip(".-").casefold() for m in WORD.finditer(text[:LONGEST])}


class Finder:
    """Finds whom texts name, by the ``names`` (folded) of some people, in one pass over each."""

    def __init__(self, names: Mapping[str, Iterable[str]]) -> None:
        whom: dict[str, set[str]] = {}
        for person_id, mine in names.items():
            for name in mine:
                whom.setdefault(name, set()).add(person_id)
        self._automaton = ahocorasick.Automaton()
        for name, people in whom.items():
            self._automaton.add_word(name, (name, people))
        if whom:
            self._automaton.make_automaton()
        self._any = bool(whom)

    def whom(self, text: str) -> set[str]:
        """The people whom a text names, by id; the same as by `words_in`."""
        folded = text[:LONGEST].casefold()
        if not self._any or not (hits := list(self._automaton.iter_long(folded))):
            return set()
        found: set[str] = set()
        for last, (name, people) in hits:
            after = folded[last + 1 : last + 2]
            if after.isalnum() or people <= found:
                continue
            # A part of a word is nobody's name: what stands around it to the next spaces decides.
            begin, end = folded.rfind(" ", 0, last) + 1, folded.find(" ", last)
            around = folded[begin : end if end >= 0 else None]
            sole = around.strip(BESIDE)
            if sole.rstrip(".-") == name if WORD.fullmatch(sole) else name in words_in(around):
                found |= people
        return found


def names_in(person: Person, accounts: Iterable[Account], application_id: str) -> set[str]:
    """By what somebody may be named in an application: address, login, the login of their account there."""
    logins = {
        a.login
        for a in accounts
        if a.application_id == application_id and a.state is not AccountState.PURGED
    }
    return {n.casefold() for n in (person.mail, person.user_name, *logins) if n}


def swaps(names: Iterable[str], mail: str, login: str) -> Mapping[str, str]:
    """What stands instead of each name of somebody: an address for an address, a login for a login."""
    return {name: mail or login if "@" in name else login for name in sorted(names)}


def renamed(text: str, old: str, new: str) -> str:
    """A text with a full name replaced, where it stands by itself."""
    return re.sub(rf"(?<!\w){re.escape(old)}(?!\w)", lambda _: new, text)


def swapped(text: str, instead: Mapping[str, str]) -> str:
    """A text with names replaced; of a list with commas nobody stands in it twice afterwards."""

    def put(found: re.Match[str]) -> str:
        word = found.group().rstrip(".-")
        new = instead.get(word.casefold())
        return found.group() if new is None else new + found.group()[len(word) :]

    result = WORD.sub(put, text)
    parts = LISTED.split(text)
    if len(parts) < 2 or result == text:
        return result
    came = {new.casefold() for old, new in instead.items() if old in words_in(text)}
    kept: list[str] = []
    seen: set[str] = set()
    for part in LISTED.split(result):
        folded = part.strip().casefold()
        if folded in seen and folded in came:
            continue
        seen.add(folded)
        kept.append(part)
    if len(kept) == len(parts):
        return result
    between = "; " if ";" in text and "," not in text else ", "
    return between.join(kept)
