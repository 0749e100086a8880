"""Nobody decides about themselves: somebody else does, unless there is nobody else."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from yugum.core.operators import RANK, OperatorRole
from yugum.engine.events import make_event
from yugum.errors import Forbidden
from yugum.ports.operators import OperatorRecord
from yugum.ports.units import UnitOfWork


async def decided_by(unit: UnitOfWork, login: str) -> OperatorRecord | None:
    """Whose doing it is what somebody does: an integration's is that of who answers for it."""
    found = await unit.operators.by_login(login)
    if found is not None and found.owner_id:
        return await unit.operators.get(found.owner_id)
    return found


async def must_be_for_others(
    unit: UnitOfWork, login: str, subject_ids: Collection[str], what: str, now: datetime
) -> bool:
    """Refuse what somebody decides about themselves, unless nobody else could; then it is on record.

    Returns whether it is about themselves. A subject is a person, or an account that is nobody's.

    Raises:
        Forbidden: another operator could decide it.
    """
    author = await decided_by(unit, login)
    if author is None or author.person_id is None or author.person_id not in subject_ids:
        return False
    page = await unit.operators.page(None, 200)
    others = [
        o.name or o.login
        for o in page.items
        if o.active and RANK[o.role] >= RANK[OperatorRole.OPERATOR]
        if o.id != author.id and o.person_id != author.person_id
    ]
    if others:
        raise Forbidden(
            f"Nobody decides about themselves ({what}).",
            remedy=f"Ask another operator: {', '.join(others[:5])}.",
        )
    event = make_event(now, login, "own.decided", author.person_id, {"what": what})
    await unit.audit.add([event])
    return True
