"""What comes of a pool by what is dated, and what would, if."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, timedelta
from pathlib import Path

import pytest
import yaml

from tests.acceptance.test_seats import adopt, done, named, pool_of, restored
from tests.acceptance.test_service import newcomer
from tests.commands import cli
from tests.conftest import Theatre
from yugum.core.verbs import Verb
from yugum.errors import InvalidInput
from yugum.wire.forecasts import ForecastView, WhatIf
from yugum_standins.morrow import REPORTING, RULES

__all__ = ["restored"]


def steps(found: ForecastView) -> list[tuple[int, int]]:
    """The most taken and by how many more or fewer, week by week, where anything changes."""
    return [(p.taken, p.moving) for p in found.periods if p.moving]


def test_what_would_be_if_is_told_and_changes_nothing(theatre: Theatre, restored: None) -> None:
    client, license = theatre.client, named()
    begins = client.clock.show().now.date() + timedelta(days=5)
    view = pool_of(client, license, 3)
    what_if = client.seats.what_if(view.id, WhatIf(joining=[f"9@{begins}"]))
    assert (what_if.short_on, what_if.lacking) == (begins, 6)
    both = WhatIf(bought=[f"6@{begins}"], joining=[f"9@{begins}"])
    assert client.seats.what_if(view.id, both).short_on is None
    assert client.seats.forecast(view.id).short_on is None, "nothing was changed by asking"
    asked = cli(
        theatre, "seats", "forecast", f"{REPORTING}/{license}", "--if-joining", f"9@{begins}"
    )
    assert "It runs short" in asked.stdout
    with pytest.raises(InvalidInput, match="says no number and day"):
        client.seats.what_if(view.id, WhatIf(bought=["many"]))


def test_people_of_a_file_would_take_what_the_rules_give(
    theatre: Theatre, restored: None, tmp_path: Path
) -> None:
    client, license = theatre.client, named()
    view = pool_of(client, license, 1)
    adopt(client, {}, Rigger8=[license])
    first = client.clock.show().now.date() + timedelta(days=12)
    known = newcomer(theatre, title="Rigger8", starts=str(first))
    assert client.seats.forecast(view.id).short_on is None
    file = tmp_path / "joiners.csv"
    rows = [f"{known},A,{first},Rigger8", f",B,{first},Rigger8", f",C,{first},Cook"]
    file.write_text("Login,First name,Starts,Title\n" + "\n".join(rows))
    told = cli(
        theatre, "seats", "forecast", f"{REPORTING}/{license}", "--if-joiners", str(file)
    ).stdout
    assert "at most 1 are lacking" in told
    assert "1 of the file are known already" in told
    before = len(list(client.people.all()))
    for text, wrong in (
        ("First name,Title\nB,Rigger8", "No first day"),
        ("First name,Starts\nB,sometime", "sometime"),
        ("Colour,Shade\nB,C", "No first day"),
        ("", "There is nothing"),
    ):
        with pytest.raises(InvalidInput, match=wrong):
            client.seats.what_if(view.id, WhatIf(joiners=text or " "))
    assert len(list(client.people.all())) == before, "nobody was made"


def test_other_rules_would_give_and_take_seats_from_tomorrow(
    theatre: Theatre, restored: None
) -> None:
    client, one, other = theatre.client, named("One"), named("Other")
    pools = [pool_of(client, license, 1) for license in (one, other)]
    adopt(client, {}, Rigger9=[one])
    done(client, newcomer(theatre, title="Rigger9"))
    soon = client.clock.show().now.date() + timedelta(days=9)
    newcomer(theatre, title="Rigger9", starts=str(soon))
    text = yaml.safe_load(RULES)
    given = {"application": REPORTING, "seats": [other]}
    text["roles"]["Rigger9"] = {"when": 'title eq "Rigger9"', "gives": [given]}
    rules = yaml.safe_dump(text, sort_keys=False)
    lost, gained = (client.seats.what_if(p.id, WhatIf(rules=rules)) for p in pools)
    assert client.seats.forecast(pools[0].id).short_on == soon
    assert (lost.short_on, steps(lost)) == (None, [(1, -1)])
    assert (gained.short_on, gained.lacking, steps(gained)) == (soon, 1, [(1, 1)])
    with pytest.raises(InvalidInput, match="nowhere"):
        client.seats.what_if(pools[0].id, WhatIf(rules=rules.replace(REPORTING, "nowhere")))


def test_moves_and_absences_that_are_dated_are_counted(theatre: Theatre, restored: None) -> None:
    client, license = theatre.client, named()
    view = pool_of(client, license, 5)
    adopt(client, {}, Rigger7=[license])
    today = client.clock.show().now.date()
    mover, absentee, away = (newcomer(theatre, title="Rigger7") for _ in range(3))
    for login in (mover, absentee, away):
        done(client, login)

    def day(n: int) -> date:
        return today + timedelta(days=n)

    done(client, mover, Verb.MOVER, at=str(day(30)), changes={"title": "Cook"}, overlap_days=0)
    done(client, absentee, Verb.ABSENCE, at=str(day(10)), until=str(day(24)))
    done(client, away, Verb.ABSENCE, until=str(day(45)))
    assert steps(client.seats.forecast(view.id)) == [(3, -1)], "their seats are kept"
    text = yaml.safe_load(RULES) | {"seats": {"absence": "freed"}}
    given = {"application": REPORTING, "seats": [license]}
    text["roles"]["Rigger7"] = {"when": 'title eq "Rigger7"', "gives": [given]}
    client.rules.adopt(yaml.safe_dump(text, sort_keys=False), "freed", take_away=10_000)
    done(client, away, Verb.RECHECK)
    found = client.seats.forecast(view.id)
    taken: Callable[[date], int] = lambda d: next(  # noqa: E731
        p.taken for p in found.periods if p.begins <= d <= p.ends
    )
    assert found.pool.held == 2, "whoever is away gave it back"
    assert [taken(day(n)) for n in (1, 17, 27, 38, 48)] == [2, 1, 2, 1, 2]
