"""Waiting for what comes by itself."""

from __future__ import annotations

import time
from typing import Any


def until(good: Any, seconds: float = 20) -> None:
    """Wait until something holds; a test whose time is over fails."""
    deadline = time.monotonic() + seconds
    while not good() and time.monotonic() < deadline:
        time.sleep(0.1)
    assert good()
