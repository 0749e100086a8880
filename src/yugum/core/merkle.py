"""The Merkle log under the audit trail, hashed as RFC 9162 2.1 says (SHA-256)."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence

from yugum.core.documents import Document

EMPTY_ROOT = hashlib.sha256(b"").digest()


def canonical(document: Document) -> bytes:
    """One byte form of a JSON object: sorted keys, no blanks, UTF-8."""
    return json.dumps(
        document, sort_keys=True, separators=(",", ":"), ensure_ascii=False, default=str
    ).encode()


def payload_digest(salt: bytes, payload: Document) -> bytes:
    """The salted digest that stays when the payload is erased."""
    return hashlib.sha256(salt + canonical(payload)).digest()


def leaf_hash(entry: bytes) -> bytes:
    return hashlib.sha256(b"\x00" + entry).digest()


def node_hash(left: bytes, right: bytes) -> bytes:
    return hashlib.sha256(b"\x01" + left + right).digest()


Frontier = tuple[tuple[int, bytes], ...]
"""Roots of the perfect subtrees of the log, largest first: (number of leaves, hash)."""


def append(frontier: Frontier, leaf: bytes) -> Frontier:
    """The frontier after one more leaf; O(log n)."""
    stack = list(frontier)
    size, digest = 1, leaf
    while stack and stack[-1][0] == size:
        _, left = stack.pop()
        size, digest = size * 2, node_hash(left, digest)
    return (*stack, (size, digest))


def size_of(frontier: Frontier) -> int:
    return sum(size for size, _ in frontier)


def root(frontier: Frontier) -> bytes:
    """The root hash of the log that the frontier stands for."""
    if not frontier:
        return EMPTY_ROOT
    digest = frontier[-1][1]
    for _, left in reversed(frontier[:-1]):
        digest = node_hash(left, digest)
    return digest


def root_of(leaves: Sequence[bytes]) -> bytes:
    """The root over all ``leaves``, from the first on."""
    frontier: Frontier = ()
    for leaf in leaves:
        frontier = append(frontier, leaf)
    return root(frontier)
