"""Secrets that somebody carries: stored as a digest, compared in constant time."""

from __future__ import annotations

import hashlib
import hmac


def hashed(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def same(one: str, other: str) -> bool:
    """Compare secrets in constant time."""
    return hmac.compare_digest(one.encode(), other.encode())
