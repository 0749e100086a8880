"""A file of people as a practitioner would load it: read by its columns, copied into a table."""

from __future__ import annotations

import csv
import io

import psycopg


def copied(connection: psycopg.Connection, raw: bytes) -> None:
    """Reads a file and copies every row of it."""
    reader = csv.DictReader(io.StringIO(raw.decode("utf-8-sig")), delimiter=";")
    names = list(reader.fieldnames or ())
    columns = ", ".join(f"c{n} text" for n in range(len(names)))
    connection.execute(b"DROP TABLE IF EXISTS bare")
    connection.execute(f"CREATE TABLE bare ({columns})".encode())
    with connection.cursor() as cursor, cursor.copy("COPY bare FROM STDIN") as copy:
        for row in reader:
            copy.write_row([row[name] for name in names])
