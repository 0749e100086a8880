"""Attributes of people that the organisation's rules declare: only these, and of the right kind."""

from __future__ import annotations

from collections.abc import Mapping

from yugum.core.attributes import OwnAttribute, OwnType, checked
from yugum.core.facts import Fields
from yugum.core.people import OWN
from yugum.engine.context import load_rules
from yugum.errors import InvalidInput
from yugum.ports.units import UnitOfWork


async def own_values(unit: UnitOfWork, own: Mapping[str, str]) -> dict[str, str]:
    """Values of one's own attributes as they are stored: who is named by an id.

    Raises:
        InvalidInput: one is not declared, or its value is of another kind.
        NotFound: a person is named whom nobody knows.
    """
    if not own:
        return {}
    declared = (await load_rules(unit)).own
    return {name: await _value(unit, declared, name, value) for name, value in own.items()}


async def own_changes(unit: UnitOfWork, changes: Fields) -> Fields:
    """Changes of somebody's fields with those of the organisation's own as they are stored."""
    own = {n.removeprefix(OWN): v or "" for n, v in changes.items() if n.startswith(OWN)}
    values = await own_values(unit, own)
    return {**changes, **{f"{OWN}{name}": value for name, value in values.items()}}


async def _value(
    unit: UnitOfWork, declared: Mapping[str, OwnAttribute], name: str, value: str
) -> str:
    if problem := checked(declared, name, value):
        raise InvalidInput(
            f"'{value}' cannot be {OWN}{name}: {problem}."
            if name in declared
            else f"{OWN}{name}: {problem}.",
            place=f"{OWN}{name}",
            remedy="Declare it under attributes in the rules, or correct it.",
        )
    if value and declared[name].type is OwnType.PERSON:
        return (await unit.people.resolve(value)).id
    return value
