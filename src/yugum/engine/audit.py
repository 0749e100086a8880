"""Sealing the audit log, exporting it, and checking an export without the service."""

from __future__ import annotations

from collections.abc import AsyncIterator, Iterable
from dataclasses import dataclass, fields

import msgspec
import orjson
from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

from yugum.core.documents import Document
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
from yugum.ports.audit import Event, EventLine, Head
from yugum.ports.pages import ListPage
from yugum.ports.services import Signer
from yugum.ports.units import Database

PORTION = 1000


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """What of an event the log commits to; its digest stands for the payload."""

    id: str
    at: str
    actor: str
    action: str
    subject: str
    docket_id: str
    digest: str

    def leaf(self) -> bytes:
        """The hash of its leaf in the log."""
        return leaf_hash(
            canonical(
                {
                    "id": self.id,
                    "at": self.at,
                    "actor": self.actor,
                    "action": self.action,
                    "subject": self.subject,
                    "docket_id": self.docket_id,
                    "digest": self.digest,
                }
            )
        )


def entry_of(event: Event) -> Entry:
    """What the log commits to of an event."""
    return Entry(
        id=event.id,
        at=as_text(event.at),
        actor=event.actor,
        action=event.action,
        subject=event.subject,
        docket_id=event.docket_id or "",
        digest=event.digest.hex(),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ExportLine(Entry):
    """A line of an export: an event with its salt and payload (None once that was erased)."""

    salt: str
    payload: Document | None


@dataclass(frozen=True, slots=True, kw_only=True)
class HeadLine:
    """The last line of an export: the signed head over the ``head`` events before it."""

    head: int
    root: str
    signature: str
    key: str


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
            events = await unit.audit.unsealed(PORTION)
            if not events:
                return 0
            head = await unit.audit.head()
            frontier: Frontier = head.frontier if head else ()
            places = []
            for event in events:
                places.append((event.id, size_of(frontier)))
                frontier = append(frontier, entry_of(event).leaf())
            size, digest = size_of(frontier), root(frontier)
            signature = self._signer.sign(head_message(size, digest))
            await unit.audit.seal(
                places, Head(size=size, root=digest, frontier=frontier, signature=signature)
            )
            return len(events)


class AuditLog:
    """The log as it is looked at, and as JSON lines: one event a line, the signed head last."""

    def __init__(self, database: Database, public_key: str) -> None:
        self._database = database
        self._public_key = public_key

    async def page(
        self, *, who: str, docket: str, action: str, cursor: str | None, limit: int
    ) -> ListPage[EventLine]:
        """Events, the newest first: about somebody, of a docket, of a kind."""
        async with self._database.unit() as unit:
            subject = (await unit.people.resolve(who)).id if who else ""
            docket_id = (await unit.dockets.by_name(docket)).id if docket else ""
            return await unit.audit.page(
                subject=subject, docket_id=docket_id, action=action, cursor=cursor, limit=limit
            )

    async def lines(self) -> AsyncIterator[str]:
        """An export, line by line."""
        async with self._database.unit() as unit:
            head = await unit.audit.head()
            size = head.size if head else 0
            async for event in unit.audit.export():
                if event.leaf_index >= size:
                    break
                entry = entry_of(event)
                line = ExportLine(
                    **{f.name: getattr(entry, f.name) for f in fields(entry)},
                    salt=event.salt.hex(),
                    payload=event.payload,
                )
                yield orjson.dumps(line).decode() + "\n"
            if head:
                last = HeadLine(
                    head=head.size,
                    root=head.root.hex(),
                    signature=head.signature.hex(),
                    key=self._public_key,
                )
                yield orjson.dumps(last).decode() + "\n"


def verify(lines: Iterable[str], key: str = "") -> int:
    """Check an export offline; returns the number of events.

    ``key`` is the verifying key that is trusted (hex); without one the export's own is used, which
    shows that nothing was changed since, but not by whom it was signed.

    Raises:
        InvalidInput: an event was changed, left out or added, or the signature does not fit.
    """
    frontier: Frontier = ()
    for number, text in enumerate(lines, 1):
        place = f"line {number}"
        try:
            line = msgspec.json.decode(text, type=ExportLine)
        except msgspec.ValidationError:
            try:
                head = msgspec.json.decode(text, type=HeadLine)
            except msgspec.ValidationError as error:
                raise InvalidInput(
                    f"Line {number} is not an event of an export.", place=place
                ) from error
            return _verify_head(head, frontier, key)
        except msgspec.DecodeError as error:
            raise InvalidInput(f"Line {number} is not JSON.", place=place) from error
        if line.payload is not None:
            try:
                salted = payload_digest(bytes.fromhex(line.salt), line.payload)
            except ValueError as error:
                raise InvalidInput(f"Line {number} has no salt.", place=place) from error
            if salted.hex() != line.digest:
                raise InvalidInput(
                    f"Line {number}: the payload is not the one that was logged.", place=place
                )
        frontier = append(frontier, line.leaf())
    raise InvalidInput("The export has no signed head; it is cut off.", place="end")


def _verify_head(head: HeadLine, frontier: Frontier, key: str) -> int:
    size = size_of(frontier)
    if head.head != size:
        raise InvalidInput(
            f"The head counts {head.head} events, the export has {size}.", place="head"
        )
    digest = root(frontier)
    if digest.hex() != head.root:
        raise InvalidInput("The events do not lead to the signed root.", place="head")
    try:
        public = Ed25519PublicKey.from_public_bytes(bytes.fromhex(key or head.key))
    except ValueError as error:
        raise InvalidInput(
            "The verifying key is no Ed25519 key: 64 digits in hex.", place="key" if key else "head"
        ) from error
    try:
        public.verify(bytes.fromhex(head.signature), head_message(size, digest))
    except (InvalidSignature, ValueError) as error:
        raise InvalidInput("The head's signature does not fit the key.", place="head") from error
    return size
