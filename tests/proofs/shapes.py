"""What the tool that tries the description is told: formats, and what there is to be named.

Loaded by it (``SCHEMATHESIS_HOOKS``); ``YUGUM_DESCRIBED`` names a file with where the service is.
"""

from __future__ import annotations

import json
import os
import re
import sys
import unicodedata
from pathlib import Path
from typing import Any
from zoneinfo import available_timezones

import requests
import schemathesis
from hypothesis import strategies as st
from schemathesis import Case, GenerationMode, HookContext

from tests.proofs.staged import Staged
from yugum_standins.morrow import RULES

SURROGATES = range(0xD800, 0xE000)
NO_TEXT = {"Cc", "Cf", "Cs", "Zl", "Zp"}
STAGED = Staged(json.loads(Path(os.environ["YUGUM_DESCRIBED"]).read_text()))
MOMENTS = ("2040-03-07", "2040-03-07 17:00", "tomorrow 09:00", "+12d", "+3w")
FILES = ("login\n", "login,name\nsol,Sol\n", "login,groups\nsol,Staff;Crew\n")
PEOPLE = ("Login\n", "Login;First name\nsol;Sol\n", "\ufeffNumber,Department\n0042,Deck\n")
FILTERS = ("", 'department eq "Deck"', 'title co "officer" and userName pr', "not (site eq null)")


def _class() -> str:
    """The characters of a pattern's ``\\p{…}``, which not every engine knows, one by one."""
    ranges: list[list[int]] = []
    for n in range(sys.maxunicode + 1):
        if unicodedata.category(chr(n)) in NO_TEXT:
            if ranges and ranges[-1][1] == n - 1:
                ranges[-1][1] = n
            else:
                ranges.append([n, n])
    return "".join(f"{_sign(a)}-{_sign(b)}" for a, b in ranges if a not in SURROGATES)


def _sign(n: int) -> str:
    return f"\\u{n:04x}" if n <= 0xFFFF else chr(n)


PLAIN = _class()
PROPERTIES = re.compile(r"(?:\\p\{(?:Cc|Cf|Cs|Zl|Zp)\})+")

schemathesis.openapi.format("moment", st.sampled_from(MOMENTS))
schemathesis.openapi.format("email", st.from_regex(r"[a-z]{1,9}@[a-z]{1,9}\.net", fullmatch=True))
schemathesis.openapi.format("scim-filter", st.sampled_from(FILTERS))
schemathesis.openapi.format("rules-file", st.sampled_from((RULES, f"{RULES}\n# as before\n")))
schemathesis.openapi.format("accounts-file", st.sampled_from(FILES))
schemathesis.openapi.format("people-file", st.sampled_from(PEOPLE))
schemathesis.openapi.format("time-zone", st.sampled_from(sorted(available_timezones())[::40]))
schemathesis.openapi.format("username", st.from_regex(r"[a-z][a-z0-9._-]{2,30}", fullmatch=True))


@schemathesis.hook
def before_load_schema(_: HookContext, raw_schema: dict[str, Any]) -> None:
    def walk(node: Any) -> None:
        if isinstance(node, dict):
            if isinstance(pattern := node.get("pattern"), str):
                node["pattern"] = PROPERTIES.sub(lambda _: PLAIN, pattern)
            for inner in node.values():
                walk(inner)
        elif isinstance(node, list):
            for inner in node:
                walk(inner)

    walk(raw_schema)


@schemathesis.hook
def before_call(_: HookContext, case: Case[Any], kwargs: dict[str, Any]) -> None:
    if case.meta is None or case.meta.generation.mode is not GenerationMode.POSITIVE:
        return
    if isinstance(case.query, dict):
        case.query.pop("cursor", None)  # only what a list gave is one
    if case.operation.definition.raw["operationId"] == "clock.advance":
        case.body = {"to": "+1h"}  # years take long
    STAGED.fill(case)
    if STAGED.in_session:
        kwargs["auth"] = _without_token  # that is given to all


def _without_token(request: requests.PreparedRequest) -> requests.PreparedRequest:
    request.headers.pop("Authorization", None)
    return request


@schemathesis.serializer("text/csv")
def as_it_is(_: Any, value: Any) -> bytes:
    return value if isinstance(value, bytes) else str(value).encode()
