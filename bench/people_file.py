"""A file of 20,000 new people, checked and taken, in an organisation of 20,000 others.

The bare counterpart (``people_file_bare.py``) reads the same file with ``csv.DictReader`` and COPYs its rows
into a table.
"""

from __future__ import annotations

import csv
import io
import os
import tempfile
import time
from pathlib import Path
from typing import Any

import psycopg

from bench.console import filled
from bench.cutoff import _database_settings, _peak
from bench.people_file_bare import copied
from yugum.client import Client
from yugum_standins.stage import Stage

COLUMNS = (
    *("Login", "Given name", "Family name", "Number", "Kind", "Department", "Title", "Site"),
    *("Manager", "Mail", "Starts"),
)


def people_file(size: int, rounds: int) -> dict[str, Any]:
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        stage = Stage(Path(folder))
        try:
            url, token = filled(stage, 20_000)
            return _run(stage, url, token, size, rounds)
        finally:
            stage.stop()


def file_of(size: int, begin: int) -> bytes:
    """People with everything a file says of them; each hundredth manages the next ones."""
    out = io.StringIO()
    writer = csv.writer(out, delimiter=";")
    writer.writerow(COLUMNS)
    for n in range(begin, begin + size):
        boss = begin + (n - begin) // 100 * 100
        writer.writerow(
            [
                *(f"new{n}", f"Given{n % 997}", f"Family{n}", str(10_000_000 + n), f"kind {n % 5}"),
                *(f"D{n % 40}", "Deckhand", f"S{n % 30}"),
                *("" if n == boss else f"new{boss}", f"new{n}@example.org", "2026-03-02"),
            ]
        )
    return out.getvalue().encode("utf-8-sig")


def _run(stage: Stage, url: str, token: str, size: int, rounds: int) -> dict[str, Any]:
    found: list[dict[str, Any]] = []
    with (
        psycopg.connect(url, autocommit=True) as connection,
        Client(stage.url, token, timeout=600) as client,
    ):
        for number in range(rounds):
            raw = file_of(size, 1_000_000 + number * size)
            began = time.perf_counter()
            copied(connection, raw)
            bare = time.perf_counter() - began
            began = time.perf_counter()
            checked = client.people_files.check(f"{number}.csv", raw)
            checking = time.perf_counter() - began
            if checked.new != size:
                raise RuntimeError(f"{checked.faulty} rows are faulty.")
            *_, last = client.people_files.take(checked.id)
            took = time.perf_counter() - began
            if last.taken != size:
                raise RuntimeError(f"{last.taken} rows were taken.")
            found.append(
                {
                    "checked s": round(checking, 3),
                    "taken s": round(took - checking, 3),
                    "bare s": round(bare, 3),
                    "ratio": round(took / bare, 2),
                    "service MB": _peak(stage.children["service"].pid),
                }
            )
    settings = {"rows": size, "cores": os.cpu_count() or 0, **_database_settings(url)}
    return {"settings": settings, "rounds": found, "memory": {}}
