"""Orders of more seats: asked for, agreed to by somebody else, expected, arrived."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import date, datetime

from babel.numbers import get_currency_precision

from yugum.core.documents import Document
from yugum.core.mails import Mail, MailKind, order_mail
from yugum.core.operators import OperatorRole
from yugum.core.orders import Order, Ordered, OrderState, request_csv, request_row
from yugum.core.seats import Purchase
from yugum.core.wording import plural
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.own import decided_by
from yugum.engine.posting import post
from yugum.engine.seats import in_step, must_end_after, shown_pool, today
from yugum.engine.telling import tell_operator
from yugum.errors import Forbidden, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.operators import OperatorRecord
from yugum.ports.orders import OrderLine, Served
from yugum.ports.pages import ListPage
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork
from yugum.settings import Settings


@dataclass(frozen=True, slots=True, kw_only=True)
class NewOrder:
    """Seats to be asked for: so many of a pool, until when they are needed, for which term, and why."""

    pool_id: str
    count: int
    reason: str
    needed_by: date | None = None
    begins: date | None = None
    ends: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderShown:
    """An order, whether it is late, and whom of the line it would serve.

    ``counted`` is whether the application says that there are as many as were bought; None where it does not
    tell, or nothing has arrived.
    """

    line: OrderLine
    overdue: bool
    counted: bool | None
    serves: Sequence[Served]


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderPage:
    """Orders, and the day on which they are looked at."""

    page: ListPage[OrderLine]
    today: date


class Orders:
    def __init__(self, database: Database, clock: Clock, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._settings = settings

    async def page(
        self,
        cursor: str | None,
        limit: int,
        *,
        state: OrderState | None,
        pool_id: str | None,
        only_open: bool,
    ) -> OrderPage:
        """Orders, the latest first.

        Raises:
            NotFound: there is no such pool.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            if pool_id is not None:
                await shown_pool(unit, pool_id)
            page = await unit.orders.page(
                cursor, limit, state=state, pool_id=pool_id, only_open=only_open
            )
            return OrderPage(page=page, today=await today(unit, now))

    async def show(self, order_id: str) -> OrderShown:
        """One order by its id or name (SO-0012).

        Raises:
            NotFound: there is none.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            return await _shown(unit, order_id, now)

    async def request(self, order_id: str) -> tuple[str, str]:
        """The request to whoever buys, as CSV, and its order's name."""
        async with self._database.unit(alone=True) as unit:
            line = await unit.orders.one(order_id)
            return request_csv(line, await _of(unit, line)), line.name

    async def ask(self, new: NewOrder, author: str) -> OrderShown:
        """Ask for more seats; administrators are told, one of whom agrees.

        Raises:
            NotFound: there is no such pool.
            InvalidInput: the term ends before it begins, or the day is past.
        """
        now = await self._clock.now()
        must_end_after(new.begins, new.ends)
        async with self._database.unit() as unit:
            pool = (await shown_pool(unit, new.pool_id)).pool
            if new.needed_by is not None and new.needed_by < await today(unit, now):
                raise InvalidInput(f"{new.needed_by} is past.", place="needed_by")
            if pool.unlimited:
                raise InvalidInput(
                    f"There are as many seats of {pool.license} as one likes.", place="pool_id"
                )
            made = Order(id=str(uuid.uuid4()), author=author, made_at=now, **asdict(new))
            await unit.orders.add(made)
            line = await unit.orders.one(made.id)
            await self._say(unit, line, author, "order.asked", now)
            subject = (
                f"To be agreed to: {line.name}, {plural(line.count, 'seat')} of {line.license}"
            )
            text = await self._text(unit, line, "Somebody else than who asked agrees or refuses.")
            for who in await _administrators(unit, but=author):
                await tell_operator(unit, who.person_id, subject, text, self._vault, now)
            return await _shown(unit, made.id, now)

    async def decide(self, order_id: str, author: str, answer: str, *, agreed: bool) -> OrderShown:
        """Agree to an order, or refuse it; agreed to, the request goes to whoever buys.

        Raises:
            Forbidden: who asked decides, and somebody else could.
            Conflict: it was decided about.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            line = await unit.orders.one(order_id, lock=True)
            others = await _administrators(unit, but=line.author)
            if others and await _are_one(unit, line.author, author):
                raise Forbidden(
                    "Nobody agrees to what they asked for.",
                    remedy=f"Ask: {', '.join(o.name or o.login for o in others[:5])}.",
                )
            after = line.decided(author, now, answer, agreed=agreed)
            await unit.orders.change(after)
            line = await unit.orders.one(line.id)
            await self._say(unit, line, author, f"order.{after.state.value}", now)
            if agreed:
                await self._request(unit, line, now)
            return await _shown(unit, line.id, now)

    async def expect(self, order_id: str, on: date, reference: str, author: str) -> OrderShown:
        """An order is promised for a day."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            line = await unit.orders.one(order_id, lock=True)
            after = line.promised(on, reference, await today(unit, now))
            return await self._changed(unit, after, author, now)

    async def arrive(
        self, order_id: str, count: int | None, reference: str, author: str
    ) -> OrderShown:
        """Seats have arrived: they are bought from now on, and whoever waits is served."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            line = await unit.orders.one(order_id, lock=True)
            after, came = line.received(count, reference, now)
            pool = (await shown_pool(unit, line.pool_id)).pool
            await unit.seats.hold(pool.application_id, pool.license)
            bought = Purchase(
                id=str(uuid.uuid4()),
                pool_id=line.pool_id,
                count=came,
                begins=line.begins,
                ends=line.ends,
                reference=" ".join(filter(None, (line.name, after.reference))),
            )
            await unit.seats.buy(bought)
            shown = await self._changed(unit, after, author, now)
            await in_step(unit, pool, now, below=True)
            return shown

    async def withdraw(self, order_id: str, answer: str, author: str) -> OrderShown:
        """What has not arrived will not."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            line = await unit.orders.one(order_id, lock=True)
            return await self._changed(unit, line.withdrawn(answer, now), author, now)

    async def _changed(
        self, unit: UnitOfWork, after: Order, author: str, now: datetime
    ) -> OrderShown:
        await unit.orders.change(after)
        line = await unit.orders.one(after.id)
        await self._say(unit, line, author, f"order.{after.state.value}", now)
        return await _shown(unit, after.id, now)

    async def _say(
        self, unit: UnitOfWork, line: OrderLine, author: str, what: str, now: datetime
    ) -> None:
        told: Document = {
            "pool": f"{line.application_id}/{line.license}",
            "seats": line.count,
            "arrived": line.arrived,
            "expected": str(line.expected or ""),
            "reference": line.reference,
            "reason": line.answer or line.reason,
        }
        await unit.audit.add([make_event(now, author, what, line.name, told)])

    async def _text(self, unit: UnitOfWork, line: OrderLine, todo: str) -> str:
        row = request_row(line, await _of(unit, line))
        page = f"{self._settings.console_url}/seats?pool={line.pool_id}"
        return order_mail(row, todo, page)

    async def _request(self, unit: UnitOfWork, line: OrderLine, now: datetime) -> None:
        """The request to whoever buys, as the rules name them."""
        rules = await load_rules(unit)
        text = await self._text(unit, line, request_csv(line, await _of(unit, line)))
        mails = [
            Mail(
                address=to,
                subject=f"{line.name}: {plural(line.left, 'seat')} of {line.license}",
                text=text,
                kind=MailKind.NOTICE,
                event=f"order|{line.id}|{to}",
            )
            for to in rules.orders_to
        ]
        await post(unit, mails, self._vault, now)


async def _of(unit: UnitOfWork, line: OrderLine) -> Ordered:
    pool = (await shown_pool(unit, line.pool_id)).pool
    digits = get_currency_precision(pool.currency)
    return Ordered(
        application=line.application_name,
        license=line.license,
        price="" if pool.price is None else f"{pool.price:.{digits}f}",
        currency=pool.currency,
        period=pool.period,
    )


async def _shown(unit: UnitOfWork, order_id: str, now: datetime) -> OrderShown:
    line = await unit.orders.one(order_id)
    pool = (await shown_pool(unit, line.pool_id)).pool
    told = pool.reported is not None and line.arrived > 0
    return OrderShown(
        line=line,
        overdue=line.overdue(await today(unit, now)),
        counted=not pool.differs if told else None,
        serves=await unit.orders.serves(line) if line.left else [],
    )


async def _are_one(unit: UnitOfWork, login: str, other: str) -> bool:
    """Whether one person is behind two logins; an integration is whoever answers for it."""
    one, two = await decided_by(unit, login), await decided_by(unit, other)
    if one is None or two is None:
        return login == other
    return one.id == two.id or (one.person_id is not None and one.person_id == two.person_id)


async def _administrators(unit: UnitOfWork, but: str) -> list[OperatorRecord]:
    """Who may agree, apart from somebody."""
    page = await unit.operators.page(None, 200)
    mine = await decided_by(unit, but)
    return [
        o
        for o in page.items
        if o.active and o.role is OperatorRole.ADMINISTRATOR and o.owner_id is None
        if mine is None or (o.id != mine.id and (o.person_id or o.id) != mine.person_id)
    ]
