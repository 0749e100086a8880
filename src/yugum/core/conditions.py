"""Conditions on people, accounts and dockets, as RFC 7644 3.4.2.2 filters mean them.

A condition is evaluated here over *folded* values: every attribute is a tuple of strings that went
through `fold` once. The same tree is turned into SQL in ``storage.filters``; a property test holds
the two together. Two-valued logic throughout: an absent attribute matches no comparison, except
that ``ne`` means "no value equals", so it holds when there is none.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

Values = Mapping[str, Sequence[str]]


class Op(StrEnum):
    EQ = "eq"
    NE = "ne"
    CO = "co"
    SW = "sw"
    EW = "ew"
    GT = "gt"
    GE = "ge"
    LT = "lt"
    LE = "le"


@dataclass(frozen=True, slots=True)
class Compare:
    attribute: str
    op: Op
    value: str


@dataclass(frozen=True, slots=True)
class Present:
    attribute: str


@dataclass(frozen=True, slots=True)
class Not:
    term: Condition


@dataclass(frozen=True, slots=True)
class And:
    terms: tuple[Condition, ...]


@dataclass(frozen=True, slots=True)
class Or:
    terms: tuple[Condition, ...]


Condition = Compare | Present | Not | And | Or

EVERYONE: Condition = And(())


def fold(value: str) -> str:
    """The form in which values are compared: NFKC, case folded, outer blanks gone."""
    if value.isascii():  # the same, and most values are
        return value.strip().lower()
    return unicodedata.normalize("NFKC", value.strip()).casefold()


def _compare(op: Op, have: str, want: str) -> bool:
    match op:
        case Op.EQ:
            return have == want
        case Op.CO:
            return want in have
        case Op.SW:
            return have.startswith(want)
        case Op.EW:
            return have.endswith(want)
        case Op.GT:
            return have > want
        case Op.GE:
            return have >= want
        case Op.LT:
            return have < want
        case Op.LE:
            return have <= want
        case Op.NE:  # pragma: no cover - answered by the caller, over all values
            return have != want


def matches(condition: Condition, values: Values) -> bool:
    """Whether folded ``values`` fulfil ``condition``.

    Strings order by code point, which is what COLLATE "C" does to UTF-8.
    """
    match condition:
        case Compare(attribute, Op.EQ, value):
            return value in values.get(attribute, ())
        case Compare(attribute, Op.NE, value):
            return value not in values.get(attribute, ())
        case Compare(attribute, op, value):
            return any(_compare(op, have, value) for have in values.get(attribute, ()))
        case Present(attribute):
            return any(have != "" for have in values.get(attribute, ()))
        case Not(term):
            return not matches(term, values)
        case And(terms):
            return all(matches(term, values) for term in terms)
        case Or(terms):
            return any(matches(term, values) for term in terms)


def equal_to(condition: Condition, attribute: str) -> Iterator[str]:
    """The values, folded, that the condition asks an attribute to be."""
    match condition:
        case Compare(name, Op.EQ, value) if name == attribute:
            yield value
        case And(terms) | Or(terms):
            for term in terms:
                yield from equal_to(term, attribute)


def compared_in(condition: Condition) -> Iterator[str]:
    """The attributes whose values the condition compares, not those it only asks to be there."""
    match condition:
        case Compare(attribute, _, _):
            yield attribute
        case Present(_):
            return
        case Not(term):
            yield from compared_in(term)
        case And(terms) | Or(terms):
            for term in terms:
                yield from compared_in(term)


def attributes_of(condition: Condition) -> Iterator[str]:
    """Every attribute the condition reads, in order, repeated as written."""
    match condition:
        case Compare(attribute, _, _) | Present(attribute):
            yield attribute
        case Not(term):
            yield from attributes_of(term)
        case And(terms) | Or(terms):
            for term in terms:
                yield from attributes_of(term)
