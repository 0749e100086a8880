"""Passwords by an application's rules: made, and checked while somebody types one."""

from __future__ import annotations

import string
from collections.abc import Callable, Sequence

SIGNS = "!#%+,-./:=?@_~"
CLASSES = {
    "upper": string.ascii_uppercase,
    "lower": string.ascii_lowercase,
    "digit": string.digits,
    "sign": SIGNS,
}
WORDS = {
    "upper": "a capital letter",
    "lower": "a small letter",
    "digit": "a digit",
    "sign": "a sign",
}


def make(length: int, needs: Sequence[str], choose: Callable[[str], str]) -> str:
    """A password of ``length`` with one of each class in ``needs``; ``choose`` picks at random."""
    alphabet = "".join(CLASSES[n] for n in needs) or string.ascii_letters + string.digits
    while True:  # drawn anew until it fits, so that every fitting password is as likely
        password = "".join(choose(alphabet) for _ in range(length))
        if not shortcomings(password, length, needs, ""):
            return password


def shortcomings(password: str, length: int, needs: Sequence[str], login: str) -> list[str]:
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
