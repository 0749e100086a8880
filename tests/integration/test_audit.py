"""The sealed log: whatever is done to an export shows, and erasing a payload does not."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import psycopg
import pytest

from tests.conftest import NOW
from yugum.engine.audit import AuditLog, Sealer, verify
from yugum.engine.events import make_event
from yugum.errors import InvalidInput
from yugum.storage.database import PostgresDatabase
from yugum.storage.keys import Keys

EVENTS = 11


@pytest.fixture
async def sealed(database: PostgresDatabase, tmp_path: Path) -> tuple[list[str], str]:
    """The lines of an export of eleven events, sealed in three portions, and the key."""
    keys = Keys.load(tmp_path / "keys.json")
    sealer = Sealer(database, keys)
    for portion in (range(4), range(4, 5), range(5, EVENTS)):
        async with database.unit() as unit:
            await unit.audit.add(
                [make_event(NOW, "iholm", "step.grant", f"p{n}", {"n": n}) for n in portion]
            )
        await sealer.seal_all()
    lines = [line async for line in AuditLog(database, keys.public_key).lines()]
    return lines, keys.public_key


def edited(line: str, **more: object) -> str:
    return json.dumps({**json.loads(line), **more})


def other_key(tmp: Path) -> str:
    return Keys.load(tmp / "others.json").public_key


def test_an_untouched_export_holds(sealed: tuple[list[str], str]) -> None:
    lines, key = sealed
    assert verify(lines, key) == EVENTS
    assert verify(lines) == EVENTS


TAMPERINGS: dict[str, Callable[[list[str]], list[str]]] = {
    "an event is left out": lambda x: x[:3] + x[4:],
    "the first is left out": lambda x: x[1:],
    "the last is left out": lambda x: x[:-2] + x[-1:],
    "two are swapped": lambda x: [x[1], x[0], *x[2:]],
    "one stands twice": lambda x: [x[0], *x],
    "the head is missing": lambda x: x[:-1],
    "nothing is left": lambda _: [],
    "only the head is left": lambda x: x[-1:],
    "somebody else did it": lambda x: [edited(x[0], actor="bkrog"), *x[1:]],
    "it was another time": lambda x: [edited(x[0], at="2031-01-01T00:00:00Z"), *x[1:]],
    "it was about another": lambda x: [edited(x[2], subject="p9"), *x[:2], *x[3:]],
    "the payload is another": lambda x: [edited(x[0], payload={"n": 7}), *x[1:]],
    "the digest is another": lambda x: [edited(x[0], digest="00" * 32, payload=None), *x[1:]],
    "the salt is another": lambda x: [edited(x[0], salt="00"), *x[1:]],
    "the head counts more": lambda x: [*x[:-1], edited(x[-1], head=EVENTS + 1)],
    "the root is another": lambda x: [*x[:-1], edited(x[-1], root="00" * 32)],
    "the signature is another": lambda x: [*x[:-1], edited(x[-1], signature="00" * 64)],
    "a line is no event": lambda x: ["{}", *x],
    "a line is no JSON": lambda x: ["…", *x],
}


@pytest.mark.parametrize("what", TAMPERINGS)
def test_whatever_was_done_to_an_export_shows(sealed: tuple[list[str], str], what: str) -> None:
    lines, key = sealed
    with pytest.raises(InvalidInput) as caught:
        verify(TAMPERINGS[what](lines), key)
    assert caught.value.place


def test_an_export_signed_by_somebody_else_is_told_from_ours(
    sealed: tuple[list[str], str], tmp_path: Path
) -> None:
    lines, _ = sealed
    with pytest.raises(InvalidInput, match="signature"):
        verify(lines, other_key(tmp_path))


def test_an_erased_payload_breaks_nothing(sealed: tuple[list[str], str]) -> None:
    lines, key = sealed
    erased = [edited(line, payload=None) if n == 5 else line for n, line in enumerate(lines)]
    assert verify(erased, key) == EVENTS


async def test_an_event_changed_in_the_database_shows_in_the_next_export(
    sealed: tuple[list[str], str], database: PostgresDatabase, database_url: str
) -> None:
    _, key = sealed
    with psycopg.connect(database_url, autocommit=True) as connection:
        changed = connection.execute(
            "UPDATE audit_events SET actor = 'nobody' WHERE leaf_index = 4"
        ).rowcount
    assert changed == 1
    lines = [line async for line in AuditLog(database, key).lines()]
    with pytest.raises(InvalidInput, match="root"):
        verify(lines, key)


async def test_sealing_again_seals_nothing_twice(
    sealed: tuple[list[str], str], database: PostgresDatabase, tmp_path: Path
) -> None:
    lines, key = sealed
    await Sealer(database, Keys.load(tmp_path / "keys.json")).seal_all()
    assert [line async for line in AuditLog(database, key).lines()] == lines
