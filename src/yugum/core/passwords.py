"""Passwords by an application's rules: made, and checked while somebody types one."""

from __future__ import annotations

import string
from collections.abc import Callable, Sequence
from enum import StrEnum

SIGNS = "!#%+,-./:=?@_~"


class CharacterClass(StrEnum):
    """What a password can be asked to have one of."""

    UPPER = "upper"
    LOWER = "lower"
    DIGIT = "digit"
    SIGN = "sign"


CLASSES = {
    CharacterClass.UPPER: string.ascii_uppercase,
    CharacterClass.LOWER: string.ascii_lowercase,
    CharacterClass.DIGIT: string.digits,
    CharacterClass.SIGN: SIGNS,
}
WORDS = {
    CharacterClass.UPPER: "a capital letter",
    CharacterClass.LOWER: "a small letter",
    CharacterClass.DIGIT: "a digit",
    CharacterClass.SIGN: "a sign",
}


def make(length: int, needs: Sequence[CharacterClass], choose: Callable[[str], str]) -> str:
    """A password of ``length`` with one of each class in ``needs``; ``choose`` picks at random."""
    alphabet = "".join(CLASSES[n] for n in needs) or string.ascii_letters + string.digits
    while True:  # drawn anew until it fits, so that every fitting password is as likely
        password = "".join(choose(alphabet) for _ in range(length))
        if not shortcomings(password, length, needs, ""):
            return password


def shortcomings(
    password: str, length: int, needs: Sequence[CharacterClass], login: str
) -> list[str]:
    """What a password still lacks, in words; empty when it can be taken."""
    lacking = []
    if len(password) < length:
        lacking.append(f"{length} characters or more")
    lacking += [WORDS[n] for n in needs if not any(c in CLASSES[n] for c in password)]
    if login and login.lower() in password.lower():
        lacking.append("nothing of the login in it")
    if any(ord(c) < 32 for c in password):
        lacking.append("no control characters")
    return lacking
