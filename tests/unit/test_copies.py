"""What is copied field by field for speed loses no field, also one that is added later."""

from __future__ import annotations

from dataclasses import MISSING, fields, replace
from decimal import Decimal

from yugum.core.actions import NO_ARGUMENTS, Action, Arguments, Phase
from yugum.core.decisions import Origin, OriginKind
from yugum.core.plans import PlannedStep
from yugum.core.seats import Pool, PricePeriod

POOL = Pool(
    id="x",
    application_id="crew",
    license="planner",
    bought=9,
    held=4,
    reserved=2,
    waiting=3,
    unlimited=True,
    price=Decimal(5),
    currency="USD",
    period=PricePeriod.YEAR,
    notice_days=30,
    reported=8,
)
STEP = PlannedStep(
    application_id="crew",
    account_id="",
    action=Action.GRANT,
    item="Deck",
    arguments=replace(NO_ARGUMENTS, login="a"),
    before="no",
    after="yes",
    reason="role",
    origin=Origin(OriginKind.ROLE, "Deck"),
    phase=Phase.ACCESS,
)


def test_a_copy_has_every_other_field() -> None:
    for one in (POOL, STEP):
        usual = [
            f.name
            for f in fields(one)
            if f.default is not MISSING and getattr(one, f.name) == f.default
        ]
        assert usual == [], "each field has a value that a lost one would not have"
    assert POOL.counting(5, 1) == replace(POOL, held=5, waiting=1)
    assert STEP.of("a1") == replace(STEP, account_id="a1")
    assert isinstance(STEP.of("a1").arguments, Arguments)
