"""Whom logins, numbers, names and ids stand for, many at once."""

from __future__ import annotations

from collections.abc import Sequence

from yugum.core.people import Person
from yugum.errors import Ambiguous, NotFound, YugumError
from yugum.ports.units import UnitOfWork


async def people_named(unit: UnitOfWork, names: Sequence[str]) -> dict[str, Person]:
    """Whom ids, logins, numbers or names stand for, by name.

    Raises:
        NotFound: nobody is called that.
        Ambiguous: several are.
    """
    found, wrong = await whom(unit, names, len(names))
    for error in wrong.values():
        raise error
    return found


async def whom(
    unit: UnitOfWork, names: Sequence[str], most: int
) -> tuple[dict[str, Person], dict[str, YugumError]]:
    """Whom ids, logins, numbers or names stand for, and what is wrong with the others.

    Statements do not grow with ids, logins and numbers; ``most`` names are looked for one by one.
    """
    rows = await unit.people.many(names)
    found = {name: person for name, (person, _) in rows.items()}
    rest = [n for n in names if n not in found]
    ids: dict[str, set[str]] = {}
    for key in await unit.people.by_keys(rest, rest):
        for name in (key.user_name, key.employee_number):
            ids.setdefault(name, set()).add(key.id)
    # One's login may be another's number: who is meant is not known then.
    sole = {n: next(iter(ids[n])) for n in rest if len(ids.get(n, ())) == 1}
    rows = await unit.people.many(sole.values())
    found |= {name: rows[i][0] for name, i in sole.items()}
    wrong: dict[str, YugumError] = {}
    for at, name in enumerate([n for n in dict.fromkeys(names) if n not in found]):
        try:
            if at >= most:
                raise NotFound(f"Nobody has the login or number {name}.", place="who")
            found[name] = await unit.people.resolve(name)
        except (NotFound, Ambiguous) as error:
            wrong[name] = error
    return found, wrong
