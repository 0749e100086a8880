"""For whom seats are set aside, while a batch is planned: each takes and frees some for the next."""

from __future__ import annotations

from dataclasses import replace

from yugum.core.desired import World
from yugum.core.people import Person
from yugum.core.reservations import Promise, Reservation
from yugum.core.seats import Pool

Key = tuple[str, str]
"""An application and a license."""


def promise_for(world: World, key: Key, person: Person) -> Promise | None:
    """The reservation of which somebody would take a seat: one by name before one for many."""
    mine = [p for p in world.promises.get(key, ()) if p.reservation.aside and p.is_for(person)]
    return min(mine, key=lambda p: p.reservation.person_id is None, default=None)


def full_for(world: World, key: Key, person: Person) -> bool:
    """Whether there is no seat of a pool for somebody, those set aside for them included."""
    pool = world.pools[key]
    return pool.full and not (pool.bought > pool.held and promise_for(world, key, person))


def heir_of(world: World, key: Key, account_id: str) -> Reservation | None:
    """The reservation by which the seat of an account is passed on."""
    found = (p.reservation for p in world.promises.get(key, ()))
    return next((r for r in found if r.waits_for(account_id)), None)


def taken(world: World, key: Key, person: Person) -> World:
    """The world once somebody has a seat of a pool, or stands in its line."""
    pool = world.pools[key]
    if full_for(world, key, person):
        return _with(world, key, replace(pool, waiting=pool.waiting + 1))
    mine = promise_for(world, key, person)
    if mine is None:
        return _with(world, key, replace(pool, held=pool.held + 1))
    used = replace(mine.reservation, taken=mine.reservation.taken + 1)
    pool = replace(pool, held=pool.held + 1, reserved=pool.reserved - 1)
    return _with(_said(world, key, used), key, pool)


def freed(world: World, key: Key, account_id: str) -> World:
    """The world once an account has given a seat back: one that is passed on is set aside now."""
    pool = world.pools[key]
    pool = replace(pool, held=pool.held - 1)
    heir = heir_of(world, key, account_id)
    if heir is None:
        return _with(world, key, pool)
    ready = replace(heir, given=True)
    pool = replace(pool, reserved=pool.reserved + ready.aside)
    return _with(_said(world, key, ready), key, pool)


def _with(world: World, key: Key, pool: Pool) -> World:
    return replace(world, pools={**world.pools, key: pool})


def _said(world: World, key: Key, one: Reservation) -> World:
    after = tuple(
        replace(p, reservation=one) if p.reservation.id == one.id else p
        for p in world.promises[key]
    )
    return replace(world, promises={**world.promises, key: after})
