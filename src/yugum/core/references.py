"""The reference number in a value: known only once a docket is confirmed, and the same from then on."""

from __future__ import annotations

import re

REFERENCE = "{reference}"
"""Stands for the reference of the docket that sets a value; its steps get it when it is confirmed."""


def is_as(held: str, wanted: str) -> bool:
    """Whether a value is as wanted, with whatever reference stands where one belongs."""
    if REFERENCE not in wanted:
        return held == wanted
    parts = (re.escape(" ".join(part.split())) for part in wanted.split(REFERENCE))
    return re.fullmatch(r"\s*.{0,120}?\s*".join(parts), held) is not None
