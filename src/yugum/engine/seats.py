"""Seats: pools, what is bought for which term, holders, and what they cost."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from decimal import Decimal
from zoneinfo import ZoneInfo

from babel.numbers import get_currency_precision, is_currency

from yugum.core.documents import Document
from yugum.core.seats import Money, Pool, PricePeriod, Purchase
from yugum.engine.context import zone_of
from yugum.engine.events import make_event
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.seats import PoolLine, SeatHolder
from yugum.ports.units import Database, UnitOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class PoolChange:
    """What is said of a pool; None leaves it as it is.

    ``bought`` are seats without an end, where nothing else was bought. With ``below`` fewer than are held are
    meant.
    """

    bought: int | None = None
    unlimited: bool | None = None
    price: Decimal | None = None
    currency: str | None = None
    period: PricePeriod | None = None
    notice_days: int | None = None
    below: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PoolShown:
    """A pool with what was bought for it."""

    pool: PoolLine
    purchases: Sequence[Purchase]


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatCost:
    """What a department's seats of a license cost a month."""

    department: str
    application_name: str
    license: str
    seats: int
    cost: Money


class Seats:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def list(self) -> Sequence[PoolLine]:
        """Every pool; an organisation has tens of them, so this is no page."""
        async with self._database.unit() as unit:
            return await unit.seats.lines()

    async def show(self, pool_id: str) -> PoolShown:
        async with self._database.unit() as unit:
            return await shown_pool(unit, pool_id)

    async def cost(self) -> Sequence[SeatCost]:
        """What seats cost a month, by department and license, those without a price too."""
        async with self._database.unit(alone=True) as unit:
            pools = {p.id: p for p in await unit.seats.lines()}
            counts = await unit.seats.by_department()
        return [
            SeatCost(
                department=c.department,
                application_name=pools[c.pool_id].application_name,
                license=pools[c.pool_id].license,
                seats=c.seats,
                cost=pools[c.pool_id].monthly(c.seats),
            )
            for c in counts
            if c.pool_id in pools
        ]

    async def holders(self, pool_id: str, cursor: str | None, limit: int) -> ListPage[SeatHolder]:
        async with self._database.unit() as unit:
            return await unit.seats.holders(pool_id, cursor, limit)

    async def put(
        self, application_id: str, license: str, change: PoolChange, author: str
    ) -> PoolShown:
        """Add a pool or change what is said of it; more seats serve the line at once.

        Raises:
            Conflict: fewer seats than are held, and nobody says that this is meant.
            InvalidInput: there is no such currency, or the price is no amount of it.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            if application_id not in await unit.applications.all():
                raise NotFound(f"There is no application {application_id}.", place="application_id")
            key = (application_id, license)
            await unit.seats.hold(*key)
            before = (await unit.seats.pools()).get(key)
            pool = before or Pool(
                id=str(uuid.uuid4()), application_id=application_id, license=license, bought=0
            )
            pool = _priced(pool, change)
            if change.unlimited is not None:
                pool = replace(pool, unlimited=change.unlimited)
            if change.notice_days is not None:
                pool = replace(pool, notice_days=change.notice_days)
            await unit.seats.put(pool)
            pool = (await unit.seats.pools())[key]  # somebody else may have added it just now
            if change.bought is not None:
                await _buy_for_good(unit, pool, change.bought)
            await in_step(unit, pool, now, below=change.below)
            shown = await shown_pool(unit, pool.id)
            await _tell(unit, shown, before, author, now)
            return shown

    async def buy(self, pool_id: str, bought: Purchase, author: str, *, below: bool) -> PoolShown:
        """Add seats that were bought for a term, or change a purchase by its id.

        Raises:
            Conflict: fewer seats than are held would be left, and nobody says that this is meant.
        """
        must_end_after(bought.begins, bought.ends)
        now = await self._clock.now()
        async with self._database.unit() as unit:
            before = (await shown_pool(unit, pool_id)).pool
            await unit.seats.hold(before.application_id, before.license)
            known = {p.id for p in await unit.seats.purchases([pool_id])}
            if bought.id and bought.id not in known:
                raise NotFound(f"{before.license} has no purchase {bought.id}.", place="id")
            purchase = replace(bought, id=bought.id or str(uuid.uuid4()), pool_id=pool_id)
            await unit.seats.buy(purchase)
            await in_step(unit, before, now, below=below)
            shown = await shown_pool(unit, pool_id)
            await _tell(unit, shown, before, author, now)
            return shown

    async def unbuy(self, pool_id: str, purchase_id: str, author: str, *, below: bool) -> PoolShown:
        """A purchase was entered by mistake: it goes."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            before = (await shown_pool(unit, pool_id)).pool
            await unit.seats.hold(before.application_id, before.license)
            if purchase_id not in {p.id for p in await unit.seats.purchases([pool_id])}:
                raise NotFound(f"{before.license} has no purchase {purchase_id}.")
            await unit.seats.unbuy(pool_id, purchase_id)
            await in_step(unit, before, now, below=below)
            shown = await shown_pool(unit, pool_id)
            await _tell(unit, shown, before, author, now)
            return shown

    async def remove(self, pool_id: str, author: str) -> None:
        """A pool of which nobody holds a seat goes, with what was bought for it.

        Raises:
            Conflict: somebody holds a seat of it or waits for one, or some are ordered.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            pool = (await shown_pool(unit, pool_id)).pool
            await unit.seats.hold(pool.application_id, pool.license)
            pool = (await shown_pool(unit, pool_id)).pool
            if pool.held or pool.waiting:
                raise Conflict(
                    f"{pool.held} hold a seat of {pool.license}, {pool.waiting} wait for one.",
                    remedy=f"See: yugum seats holders '{pool.application_id}/{pool.license}'.",
                )
            if coming := await unit.orders.coming(pool_id):
                raise Conflict(
                    f"{coming[0].name} is for seats of {pool.license}, and is not over.",
                    remedy="Withdraw it first: yugum orders withdraw.",
                )
            await unit.seats.remove(pool_id)
            name = f"{pool.application_id}/{pool.license}"
            await unit.audit.add([make_event(now, author, "seats.pool-removed", name, {})])


def must_end_after(begins: date | None, ends: date | None) -> None:
    """A term ends after it begins.

    Raises:
        InvalidInput: it does not.
    """
    if begins and ends and ends < begins:
        raise InvalidInput(
            f"The term would end on {ends}, before it begins.",
            place="ends",
            remedy="Correct one of the days.",
        )


async def in_step(unit: UnitOfWork, pool: Pool, now: datetime, *, below: bool) -> None:
    """As many seats as there are now by the terms of what was bought and set aside; who waits is served.

    Raises:
        Conflict: fewer than are held would be left, and nobody says that this is meant (``below``).
    """
    await unit.seats.terms(await today(unit, now), now)
    after = (await shown_pool(unit, pool.id)).pool
    if after.over > pool.over and not below:
        raise Conflict(
            f"{after.held} hold a seat of {pool.license}, {after.bought} would be bought.",
            place="bought",
            remedy="Free seats first, or say that it is meant (--below).",
        )
    if await unit.seats.serve():
        await unit.hint()


async def report(unit: UnitOfWork, application_id: str, licenses: Mapping[str, int]) -> None:
    """What an application says of its licenses: a pool for a new one, and beside what was entered for others."""
    pools = await unit.seats.pools() if licenses else {}
    for name, count in licenses.items():
        known = pools.get((application_id, name))
        if known is None:
            pool_id = str(uuid.uuid4())
            pool = Pool(
                id=pool_id,
                application_id=application_id,
                license=name,
                bought=count,
                reported=count,
            )
            await unit.seats.put(pool)
            await unit.seats.buy(Purchase(id=str(uuid.uuid4()), pool_id=pool_id, count=count))
        elif known.reported != count:
            await unit.seats.report(known.id, count)


async def today(unit: UnitOfWork, now: datetime) -> date:
    """The day of terms: the organisation's, at a moment."""
    return now.astimezone(ZoneInfo(await zone_of(unit))).date()


async def shown_pool(unit: UnitOfWork, pool_id: str) -> PoolShown:
    """A pool with what was bought for it.

    Raises:
        NotFound: there is no such pool.
    """
    pool = await unit.seats.line(pool_id)
    if pool is None:
        raise NotFound(f"There is no pool {pool_id}.", remedy="See: yugum seats list.")
    return PoolShown(pool=pool, purchases=await unit.seats.purchases([pool_id]))


async def _buy_for_good(unit: UnitOfWork, pool: Pool, count: int) -> None:
    """Let the seats without an end be so many.

    Raises:
        Conflict: the pool has purchases with a term or a reference: these are changed one by one.
    """
    known = await unit.seats.purchases([pool.id])
    plain = [p for p in known if not p.begins and not p.ends and not p.reference]
    if len(known) > len(plain):
        raise Conflict(
            f"{pool.license} has purchases with terms; how many were bought is said of each.",
            place="bought",
            remedy=f"See: yugum seats show '{pool.application_id}/{pool.license}'.",
        )
    mine = plain[0].id if plain else str(uuid.uuid4())
    await unit.seats.buy(Purchase(id=mine, pool_id=pool.id, count=count))


def _priced(pool: Pool, change: PoolChange) -> Pool:
    if change.currency is not None:
        if not is_currency(change.currency):
            raise InvalidInput(
                f"There is no currency {change.currency[:10]}.",
                place="currency",
                remedy="Write its code (ISO 4217), for example EUR.",
            )
        pool = replace(pool, currency=change.currency)
    if change.period is not None:
        pool = replace(pool, period=change.period)
    if change.price is not None:
        pool = replace(pool, price=change.price)
    digits = get_currency_precision(pool.currency)
    price = pool.price or Decimal()
    if price != price.quantize(Decimal(1).scaleb(-digits)):
        raise InvalidInput(
            f"{price.normalize():f} is no amount of {pool.currency}.",
            place="price",
            remedy=f"It has {digits} digits after the point.",
        )
    return pool


async def _tell(
    unit: UnitOfWork, shown: PoolShown, before: Pool | None, author: str, now: datetime
) -> None:
    pool = shown.pool
    payload: Document = {
        "bought": pool.bought,
        "before": before.bought if before else 0,
        "price": str(pool.price) if pool.price is not None else "",
        "currency": pool.currency,
        "purchases": len(shown.purchases),
    }
    name = f"{pool.application_id}/{pool.license}"
    await unit.audit.add([make_event(now, author, "seats.pool", name, payload)])
