"""Conditions as SQL over folded values; the twin of ``core.conditions.matches``."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB

from yugum.core.conditions import And, Compare, Condition, Not, Op, Or, Present

Column = sa.ColumnElement[Any]


def to_sql(
    condition: Condition, folded: Column, computed: Mapping[str, Column] | None = None
) -> sa.ColumnElement[bool]:
    """A predicate over ``folded`` (JSONB: attribute → list of folded strings).

    ``computed`` gives single-valued attributes that are expressions instead.
    """
    computed = computed or {}
    match condition:
        case Compare(attribute, op, value):
            if attribute in computed:
                return _single(computed[attribute], op, value)
            return _compare(folded, attribute, op, value)
        case Present(attribute):
            if attribute in computed:
                return computed[attribute].isnot(None)
            return folded.op("?")(attribute).cast(sa.Boolean)
        case Not(term):
            return sa.not_(to_sql(term, folded, computed))
        case And(terms):
            return sa.and_(sa.true(), *(to_sql(term, folded, computed) for term in terms))
        case Or(terms):
            return sa.or_(sa.false(), *(to_sql(term, folded, computed) for term in terms))


def _compare(folded: Column, attribute: str, op: Op, value: str) -> sa.ColumnElement[bool]:
    array = sa.func.coalesce(folded.op("->")(attribute), sa.cast([], JSONB))
    if op in (Op.EQ, Op.NE):
        held = array.op("?")(value).cast(sa.Boolean)
        return sa.not_(held) if op is Op.NE else held
    element = sa.func.jsonb_array_elements_text(array).table_valued("value").alias()
    return sa.exists(
        sa.select(sa.literal(1)).select_from(element).where(_single(element.c.value, op, value))
    )


def _single(have: Column, op: Op, value: str) -> sa.ColumnElement[bool]:
    exact = sa.collate(have, "C")
    want = sa.cast(value, sa.Text)
    match op:
        case Op.EQ:
            return exact == want
        case Op.NE:
            return have.is_distinct_from(want)
        case Op.CO:
            return sa.func.strpos(have, want) > 0
        case Op.SW:
            return sa.func.starts_with(have, want)
        case Op.EW:
            return sa.func.right(have, sa.func.length(want)) == want
        case Op.GT:
            return exact > want
        case Op.GE:
            return exact >= want
        case Op.LT:
            return exact < want
        case Op.LE:
            return exact <= want
