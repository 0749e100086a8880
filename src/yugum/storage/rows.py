"""Rows in both directions: many as one JSON parameter, and what comes back as the type it is."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import fields
from functools import lru_cache
from typing import Any, TypeVar

import msgspec
import orjson
import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import ARRAY

from yugum.core.desired import LOCKED
from yugum.errors import InvalidInput

T = TypeVar("T")
NO_TABLE = "A value cannot be stored: it holds a character or a number that no table takes."
NO_TABLE_REMEDY = "Leave out control characters, and numbers and dates beyond all measure."
FIELDS: dict[type[Any], tuple[str, ...]] = {}
"""The names of the fields of each dataclass that was read."""


@lru_cache(maxsize=512)
def statement(sql: str) -> sa.TextClause:
    """A statement of a constant text: parameters are found in it once, not at each call."""
    return sa.text(sql)


def read(kind: type[T], row: Mapping[Any, Any]) -> T:
    """A row as a dataclass: columns by the names of its fields, others are left out."""
    found = dict(row)  # whose keys may be subclasses of str, which the codec does not take
    return msgspec.convert({n: found[n] for n in _names(kind) if n in found}, kind)


def _names(kind: type[Any]) -> tuple[str, ...]:
    found = FIELDS.get(kind)
    if found is None:
        found = FIELDS[kind] = tuple(f.name for f in fields(kind))
    return found


def named(result: sa.Result[Any]) -> list[dict[str, Any]]:
    """Rows by their columns' names, which are plain texts as the codec takes them, made once for all."""
    names = list(map(str, result.keys()))
    return [dict(zip(names, row, strict=True)) for row in result]


def read_all(kind: type[T], result: sa.Result[Any]) -> list[T]:
    """`read` of all rows."""
    return [msgspec.convert(row, kind) for row in named(result)]


def reader(kind: type[T]) -> Callable[[Mapping[str, Any]], T]:
    """Rows of a page as a dataclass: their names are plain texts already."""
    return lambda row: msgspec.convert(row, kind)


def to_json(rows: Sequence[Mapping[str, Any]]) -> str:
    """Rows as a JSON array, to be read by ``jsonb_to_recordset``: one round trip for all.

    Bytes in PostgreSQL's hex form, moments as ISO 8601.
    """
    try:
        return orjson.dumps(rows, default=_plain).decode()
    except TypeError as error:
        if "surrogates" not in str(error):
            raise
        raise InvalidInput(NO_TABLE, remedy=NO_TABLE_REMEDY) from error


def decoded(kind: type[T], found: str) -> list[T]:
    """The rows that `as_json` made a text of."""
    return msgspec.json.decode(found, type=list[kind])  # type: ignore[valid-type]


class _Texts(sa.types.UserDefinedType[Iterable[str]]):
    """Texts sent as one array literal that the database reads: the driver takes ten times as long.

    The literal goes out untyped, so that the parameter itself is an array and is read once.
    """

    cache_ok = True

    def get_col_spec(self, **_: object) -> str:
        return "TEXT[]"

    def bind_processor(self, dialect: sa.Dialect) -> Callable[[Any], str]:  # noqa: ARG002
        return to_array


def texts(name: str) -> sa.BindParameter[Iterable[str]]:
    """A parameter that is many texts."""
    return sa.bindparam(name, type_=_Texts())


IDS = texts("ids")


def to_array(values: Iterable[str] | None) -> str:
    """Texts as an array literal (PostgreSQL 8.15.6)."""
    quoted = (v.replace("\\", r"\\").replace('"', r"\"") for v in values or ())
    return "{" + ",".join(f'"{v}"' for v in quoted) + "}"


COPIED = str.maketrans({"\\": r"\\", "\t": r"\t", "\n": r"\n", "\r": r"\r"})


def to_copy(rows: Iterable[Sequence[str | None]]) -> str:
    """Rows of texts in the text format of COPY (PostgreSQL, COPY): the driver takes one at a time."""
    return "".join("\t".join(map(copied, row)) + "\n" for row in rows)


def copied(value: str | None) -> str:
    """A text as it stands in a column of COPY."""
    if value is None:
        return r"\N"
    return value if value.isprintable() and "\\" not in value else value.translate(COPIED)


def among(column: sa.ColumnElement[Any], values: Iterable[str]) -> sa.ColumnElement[bool]:
    """``column`` is one of ``values``: one array parameter, so that the statement stays the same."""
    return column == sa.any_(sa.cast(sa.literal(list(values), _Texts()), ARRAY(sa.Text)))


def among_ids(
    column: sa.ColumnElement[Any], ids: sa.BindParameter[Iterable[str]] = IDS
) -> sa.ColumnElement[bool]:
    """``among`` of a statement that is made once: the texts come as a parameter when it is run."""
    return column == sa.any_(sa.cast(ids, ARRAY(sa.Text)))


def one_of(column: sa.ColumnElement[Any], values: Iterable[str]) -> sa.ColumnElement[bool]:
    """A column among values that are the code's own: written out, they are not put in at each call."""
    return column.in_([sa.literal_column(f"'{value}'") for value in values])


def begins_with(text: sa.ColumnElement[str], prefix: str) -> sa.ColumnElement[bool]:
    """As ``LIKE 'prefix%'``, so that an index with ``text_pattern_ops`` answers it.

    The prefix is in the statement: for any prefix LIKE has no index, and how rare a range of any two texts
    is nobody knows, so that it may be looked for in the order of the list.
    """
    return _like(text, f"{_escaped(prefix)}%")


def has_in_it(text: sa.ColumnElement[str], part: str) -> sa.ColumnElement[bool]:
    """As ``LIKE '%part%'``, with the part in the statement: how rare it is decides how rows are found.

    A statement that is prepared for any part reads the whole table in order where it is a rare one.
    """
    return _like(text, f"%{_escaped(part)}%")


def _escaped(said: str) -> str:
    return said.replace("/", "//").replace("%", "/%").replace("_", "/_")


def _like(text: sa.ColumnElement[str], pattern: str) -> sa.ColumnElement[bool]:
    return text.like(sa.literal(pattern, sa.Text, literal_execute=True), escape="/")


def _plain(value: object) -> object:
    if isinstance(value, bytes):
        return "\\x" + value.hex()
    if isinstance(value, (set, frozenset)):
        return sorted(value)
    return str(value)


def locked_sql(accounts: str) -> str:
    """The twin of ``Subject.locked``: a condition on a row of ``accounts``."""
    return f"""({accounts}.state = 'active' AND {accounts}.sessions = 0 AND {accounts}.keys = 0
  AND EXISTS (SELECT 1 FROM ledger l
  WHERE l.account_id = {accounts}.id AND l.kind = 'account' AND l.item = '{LOCKED}'))"""


def as_json(rows: sa.Select[Any] | sa.TextualSelect, name: str) -> sa.Label[str]:
    """All rows of a query as one JSON text, for a statement that asks for several kinds at once."""
    found = sa.cast(sa.func.json_agg(sa.literal_column(name)), sa.Text)
    every = sa.select(sa.func.coalesce(found, "[]")).select_from(rows.subquery(name))
    return every.scalar_subquery().label(name)
