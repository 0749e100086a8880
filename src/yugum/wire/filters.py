"""Filters as text (RFC 7644 3.4.2.2) into the core's conditions."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from scim2_models import InvalidFilterException, ScimFilter
from scim2_models.path.expressions import (
    Comparison,
    FilterNode,
    LogicalExpr,
    LogicalOperator,
    ValuePath,
)
from scim2_models.path.expressions import Not as NotNode
from scim2_models.path.expressions import (
    Present as PresentNode,
)

from yugum.core.conditions import And, Compare, Condition, Not, Op, Or, Present, fold
from yugum.core.people import as_text
from yugum.errors import InvalidInput

EXAMPLE = 'For example: department eq "Deck" and title co "officer".'


def parse_filter(text: str, attributes: Iterable[str] | None) -> Condition:
    """The condition that a filter text states.

    ``attributes`` are the names that may be filtered by (any, when None); they are recognised in
    any case and spelled as given there.

    Raises:
        InvalidInput: the syntax is wrong (with the column), or an attribute is unknown.
    """
    known = None if attributes is None else {a.lower(): a for a in (*attributes, "state")}
    if len(text) > 4000:
        raise InvalidInput("The filter is longer than 4,000 characters.", place="filter")
    try:
        node: FilterNode = ScimFilter(text).ast
    except InvalidFilterException as error:
        raise InvalidInput(
            f"The filter cannot be read: {error}.", place="filter", remedy=EXAMPLE
        ) from error
    except RecursionError as error:
        raise InvalidInput("The filter is nested too deeply.", place="filter") from error
    return _adapt(node, known, "")


def _adapt(node: FilterNode, known: dict[str, str] | None, prefix: str) -> Condition:
    match node:
        case Comparison():
            name = _name(node.attr_path, known, prefix)
            return Compare(name, Op(node.op.value), fold(_text(node.value)))
        case PresentNode():
            return Present(_name(node.attr_path, known, prefix))
        case NotNode():
            return Not(_adapt(node.expr, known, prefix))
        case LogicalExpr():
            terms = tuple(_adapt(term, known, prefix) for term in node.terms)
            return And(terms) if node.op == LogicalOperator.and_ else Or(terms)
        case ValuePath():
            return _adapt(node.val_filter, known, f"{_name(node.attr_path, None, prefix)}.")
    raise InvalidInput("The filter uses a form that is not supported.", place="filter")


def _name(path: object, known: dict[str, str] | None, prefix: str) -> str:
    name = prefix + str(path)
    if known is None:
        return name
    found = known.get(name.lower())
    if found is None:
        raise InvalidInput(
            f"'{name}' is not an attribute to filter by.",
            place="filter",
            remedy=f"Use one of: {', '.join(sorted(known.values()))}.",
        )
    return found


def _text(value: object) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, datetime):
        return as_text(value)
    return str(value)
