"""Sealing the audit log, exporting it, and checking an export without the service."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator, Iterable, Mapping
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

from yugum.core.merkle import (
    Frontier,
    append,
    canonical,
    leaf_hash,
    payload_digest,
    root,
    size_of,
)
from yugum.core.people import as_text
from yugum.errors import InvalidInput
from yugum.ports import Database, Row, Signer

PORTION = 1000


def entry_of(row: Row) -> bytes:
    """What of an event the log commits to: everything but the payload, which its digest stands for."""
    return canonical(
        {
            "id": row["id"],
            "at": as_text(row["at"]),
            "actor": row["actor"],
            "action": row["action"],
            "subject": row["subject"],
            "docket_id": row["docket_id"] or "",
            "digest": bytes(row["digest"]).hex(),
        }
    )


def head_message(size: int, digest: bytes) -> bytes:
    """The bytes that are signed for a head."""
    return b"yugum-audit-head\x00" + size.to_bytes(8, "big") + digest


class Sealer:
    """Appends events to the Merkle log, in order, and signs each new head."""

    def __init__(self, database: Database, signer: Signer) -> None:
        self._database = database
        self._signer = signer

    async def seal_all(self) -> None:
        while await self._seal() == PORTION:
            pass

    async def _seal(self) -> int:
        async with self._database.unit() as unit:
            rows = await unit.audit.unsealed(PORTION)
            if not rows:
                return 0
            head = await unit.audit.head()
            frontier: Frontier = tuple(
                (size, bytes.fromhex(digest)) for size, digest in (head["frontier"] if head else ())
            )
            places = []
            for row in rows:
                places.append((row["id"], size_of(frontier)))
                frontier = append(frontier, leaf_hash(entry_of(row)))
            digest = root(frontier)
            signature = self._signer.sign(head_message(size_of(frontier), digest))
            await unit.audit.seal(places, frontier, digest, signature)
            return len(rows)


class Exports:
    """The log as JSON lines: one event a line, the signed head last."""

    def __init__(self, database: Database, public_key: str) -> None:
        self._database = database
        self._public_key = public_key

    async def lines(self) -> AsyncIterator[str]:
        async with self._database.unit() as unit:
            head = await unit.audit.head()
            size = int(head["size"]) if head else 0
            async for row in unit.audit.export():
                if row["leaf_index"] >= size:
                    break
                document = {
                    "id": row["id"],
                    "at": as_text(row["at"]),
                    "actor": row["actor"],
                    "action": row["action"],
                    "subject": row["subject"],
                    "docket_id": row["docket_id"] or "",
                    "digest": bytes(row["digest"]).hex(),
                    "salt": bytes(row["salt"]).hex(),
                    "payload": row["payload"],
                }
                yield json.dumps(document, ensure_ascii=False) + "\n"
            if head:
                yield (
                    json.dumps(
                        {
                            "head": size,
                            "root": bytes(head["root"]).hex(),
                            "signature": bytes(head["signature"]).hex(),
                            "key": self._public_key,
                        }
                    )
                    + "\n"
                )


def verify(lines: Iterable[str], key: str = "") -> int:
    """Check an export offline; returns the number of events.

    ``key`` is the verifying key that is trusted (hex); without one the export's own is used, which
    shows that nothing was changed since, but not by whom it was signed.

    Raises:
        InvalidInput: an event was changed, left out or added, or the signature does not fit.
    """
    frontier: Frontier = ()
    for number, line in enumerate(lines, 1):
        try:
            document: Mapping[str, Any] = json.loads(line)
        except json.JSONDecodeError as error:
            raise InvalidInput(f"Line {number} is not JSON.", place=f"line {number}") from error
        if "head" in document:
            return _verify_head(document, frontier, key)
        try:
            digest = bytes.fromhex(document["digest"])
            payload = document["payload"]
            if payload is not None:
                salted = payload_digest(bytes.fromhex(document["salt"]), payload)
                if salted != digest:
                    raise InvalidInput(
                        f"Line {number}: the payload is not the one that was logged.",
                        place=f"line {number}",
                    )
            frontier = append(frontier, leaf_hash(entry_of({**document, "digest": digest})))
        except (KeyError, ValueError) as error:
            raise InvalidInput(
                f"Line {number} is not an event of an export.", place=f"line {number}"
            ) from error
    raise InvalidInput("The export has no signed head; it is cut off.", place="end")


def _verify_head(document: Mapping[str, Any], frontier: Frontier, key: str) -> int:
    size = size_of(frontier)
    if document["head"] != size:
        raise InvalidInput(
            f"The head counts {document['head']} events, the export has {size}.", place="head"
        )
    digest = root(frontier)
    if digest.hex() != document["root"]:
        raise InvalidInput("The events do not lead to the signed root.", place="head")
    public = Ed25519PublicKey.from_public_bytes(bytes.fromhex(key or document["key"]))
    try:
        public.verify(bytes.fromhex(document["signature"]), head_message(size, digest))
    except InvalidSignature as error:
        raise InvalidInput("The head's signature does not fit the key.", place="head") from error
    return size
