"""Small pieces of sentences."""

from __future__ import annotations


def plural(count: int, word: str, many: str = "") -> str:
    """``3 seats``, ``1 seat``; ``many`` where an s does not do."""
    return f"{count} {word if count == 1 else many or f'{word}s'}"


def numbered(prefix: str, docket: int) -> str:
    """A docket's number as people write it: ``MS-0321``."""
    return f"{prefix}-{docket:04d}"
