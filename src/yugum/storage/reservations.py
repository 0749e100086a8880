"""Seats set aside."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields
from datetime import date

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.reservations import Reservation
from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.reservations import ReservationLine
from yugum.storage import tables as t
from yugum.storage.aside import GIVEN
from yugum.storage.pages import fetch
from yugum.storage.rows import read, read_all, reader

STORED = [f.name for f in fields(Reservation) if f.name in t.reservations.c]
WAITS_SQL = sa.text("""
UPDATE seat_claims SET reservation_id = :id
WHERE pool_id = :pool AND person_id = :person AND state = 'waiting' AND until_at IS NULL
""")


R, FOR, WHOSE = t.reservations.alias("r"), t.people.alias("p"), t.people.alias("g")
GIVEN_BACK = sa.literal_column(GIVEN, sa.Boolean).label("given")
IN_LINE = (
    sa.select(sa.func.count())
    .where(
        t.seat_claims.c.pool_id == R.c.pool_id,
        t.seat_claims.c.reservation_id == R.c.id,
        t.seat_claims.c.state == "waiting",
        t.seat_claims.c.until_at.is_(None),
    )
    .scalar_subquery()
    .label("in_line")
)
NAME = FOR.c.display_name.label("person_name")
SOME = (
    sa.select(R, GIVEN_BACK, IN_LINE, NAME)
    .select_from(R)
    .outerjoin(FOR, FOR.c.id == R.c.person_id)
    .where(R.c.taken < R.c.count)
    .order_by(R.c.made_at, R.c.id)
)
IN_FORCE = SOME.where(R.c.open)
LINES = (
    sa.select(
        R,
        GIVEN_BACK,
        NAME,
        t.accounts.c.login.label("from_login"),
        WHOSE.c.display_name.label("from_name"),
    )
    .select_from(R)
    .outerjoin(FOR, FOR.c.id == R.c.person_id)
    .outerjoin(t.accounts, t.accounts.c.id == R.c.from_account_id)
    .outerjoin(WHOSE, WHOSE.c.id == t.accounts.c.person_id)
)


class Reservations:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def page(self, pool_id: str, cursor: str | None, limit: int) -> ListPage[ReservationLine]:
        return await fetch(
            self.connection,
            LINES.where(R.c.pool_id == pool_id),
            [R.c.ends, R.c.id],
            reader(ReservationLine),
            cursor=cursor,
            limit=limit,
            descending=True,
            count=cursor is None,
        )

    async def one(self, reservation_id: str) -> ReservationLine:
        found = await self.connection.execute(LINES.where(R.c.id == reservation_id))
        return read(ReservationLine, found.mappings().one())

    async def ahead(self, pool_id: str, today: date) -> Sequence[Reservation]:
        query = SOME.where(R.c.pool_id == pool_id, R.c.ends >= today)
        return read_all(Reservation, await self.connection.execute(query))

    async def put(self, reservation: Reservation) -> None:
        values = {name: getattr(reservation, name) for name in STORED}
        await self.connection.execute(sa.insert(t.reservations).values(**values))
        if reservation.person_id is not None:
            waits = {
                "id": reservation.id,
                "pool": reservation.pool_id,
                "person": reservation.person_id,
            }
            await self.connection.execute(WAITS_SQL, waits)

    async def withdraw(self, pool_id: str, reservation_id: str) -> Reservation:
        r = t.reservations
        gone = sa.delete(r).where(r.c.id == reservation_id, r.c.pool_id == pool_id).returning(*r.c)
        found = (await self.connection.execute(gone)).mappings().first()
        if found is None:
            raise NotFound(f"There is no reservation {reservation_id} of this pool.")
        return read(Reservation, found)
