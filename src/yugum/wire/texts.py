"""Texts from outside, and the patterns that say in a schema what is enforced."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Any
from unicodedata import category

from email_validator import EmailNotValidError, validate_email
from pydantic import GetJsonSchemaHandler, JsonValue
from pydantic_core import CoreSchema

from yugum.core.documents import Json

JOINED = (
    "[\u0606-\u061b\u061d-\u06dc\u06de-\u06ff\u0750-\u077f\u08a0-\u08e1\u08e3-\u08ff\u0900-\u0dff]"
)
"""Arabic and Indic letters, less the format characters among them."""
JOINERS = re.compile(f"(?<={JOINED})[\u200c\u200d](?={JOINED})")
"""What joins or parts letters within words of Persian or Hindi; anywhere else it only hides."""
NO_TEXT = frozenset({"Cc", "Cf", "Cs", "Zl", "Zp"})
"""Unicode's categories of what is no text of one line: control, format, half a pair, line ends."""
NO_LINE = r"\p{Cc}\p{Cf}\p{Cs}\p{Zl}\p{Zp}"
"""The same in a pattern of a schema (ECMA 262, flag u)."""
_ONE = f"(?:[^{NO_LINE}]|{JOINED}(?:[\u200c\u200d]{JOINED})+)"
LINE = f"^{_ONE}*$"
FILLED = rf"^{_ONE}*(?:[^\s{NO_LINE}]|{JOINED}(?:[\u200c\u200d]{JOINED})+){_ONE}*$"
"""A line, and one that holds more than blanks."""


def one_line(text: str) -> str:
    """A text as it is, if it is one line.

    Raises:
        ValueError: it holds a character that ends a line, controls or hides something.
    """
    if text.isascii() and text.isprintable():
        return text
    for sign in JOINERS.sub("", text):
        if category(sign) in NO_TEXT:
            raise ValueError(
                f"U+{ord(sign):04X} is not allowed: control and format characters, and what ends a "
                "line, have no place here"
            )
    return text


def address(text: str) -> str:
    """A mail address in its one form, or nothing.

    Raises:
        ValueError: it is none.
    """
    if not text:
        return text
    local, at, domain = text.rpartition("@")
    if at and len(local) <= LONGEST_LOCAL and PLAIN_LOCAL.fullmatch(local):
        # Of a file's 20,000 addresses hardly one is otherwise, and domains repeat themselves.
        return _whole(local, _domain(domain))
    return _address(text)


PLAIN_LOCAL = re.compile(r"[A-Za-z0-9_+-]+(\.[A-Za-z0-9_+-]+)*")
"""What stands before the @ in nearly every address: a dot-atom of letters and digits (RFC 5321 4.1.2)."""
LONGEST_LOCAL = 64
LONGEST_ADDRESS = 254


def _whole(local: str, domain: str) -> str:
    whole = f"{local}@{domain}"
    return whole if len(whole) <= LONGEST_ADDRESS else _address(whole)


@lru_cache(maxsize=1024)
def _domain(domain: str) -> str:
    return _address(f"a@{domain}").removeprefix("a@")


def _address(text: str) -> str:
    try:
        found = validate_email(text, check_deliverability=False, globally_deliverable=False)
    except EmailNotValidError as error:
        raise ValueError(f"this is no mail address: {error}") from error
    return found.normalized


@dataclass(frozen=True, slots=True)
class Shape:
    """What a schema says of a text, beside what its type says or in place of it."""

    said: tuple[tuple[str, Json], ...]
    whole: bool = False

    def __get_pydantic_json_schema__(
        self, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> dict[str, Any]:
        return {**({} if self.whole else handler(schema)), **dict(self.said)}


def asks(field: str, value: JsonValue, *names: str) -> dict[str, JsonValue]:
    """What a schema says of an object: where ``field`` has ``value``, these texts are filled."""
    filled: JsonValue = {n: {"minLength": 1, "pattern": r"\S"} for n in names}
    return {
        "if": {"properties": {field: {"const": value}}, "required": [field]},
        "then": {"properties": filled, "required": [*names]},
    }


def shape(**said: Json) -> Shape:
    """So much more of a text."""
    return Shape(tuple(said.items()))


def maybe(form: str) -> Shape:
    """So, or nothing."""
    nothing: Json = {"type": "string", "maxLength": 0}
    return Shape((("anyOf", [nothing, {"type": "string", "format": form}]),), whole=True)


def written(form: str) -> Shape:
    """A text in a form with a grammar of its own, which docs/reference/api.md names."""
    return Shape((("type", "string"), ("format", form)), whole=True)
