"""What several take in shares: every thing falls to one of them, and stays with them whatever else comes or goes."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from tests.builders import NOW, account, person, subject
from yugum.core.accounts import Asset
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.desired import Subject, Successor
from yugum.core.handover import SHARE, parts_of

KEYS = st.lists(st.uuids().map(str), min_size=1, max_size=40, unique=True)


def shared(keys: list[str], people: int) -> Subject:
    """Somebody whose rosters are to go to several."""
    heirs = {
        f"h{n}": Successor(
            person=person(id=f"h{n}"),
            accounts={"crew": account(id=f"a{n}", person_id=f"h{n}")},
        )
        for n in range(people)
    }
    made = [
        Decision(
            id=f"d{n}",
            subject_id="p1",
            kind=DecisionKind.SUCCESSOR,
            payload=Payload(item="roster", value=f"{SHARE} {n + 1}/{people}", person=f"h{n}"),
            author="ines",
            reason="each their part",
        )
        for n in range(people)
    ]
    mine = account(assets=tuple(Asset("roster", key, key) for key in keys))
    return subject(accounts=(mine,), decisions=tuple(made), heirs=heirs)


def whose(one: Subject) -> dict[str, str]:
    found: dict[str, str] = {}
    for _, part in parts_of(one, one.accounts[0], NOW):
        assert not part.whole, "a share is of those that are there, not of all of a kind"
        for thing in part.things:
            assert thing.external_id not in found, "nothing goes to two"
            heir = part.choice.successor
            found[thing.external_id] = heir.person.id if heir else ""
    return found


@given(keys=KEYS, people=st.integers(2, 5), gone=st.integers(0, 40))
def test_everything_falls_to_one_and_stays_there(keys: list[str], people: int, gone: int) -> None:
    found = whose(shared(keys, people))
    assert set(found) == set(keys)
    assert set(found.values()) <= {f"h{n}" for n in range(people)}
    left = keys[gone:]
    assert whose(shared(left, people)) == {key: found[key] for key in left}


@given(keys=KEYS)
def test_where_a_share_ends_only_its_things_go_otherwise(keys: list[str]) -> None:
    both = shared(keys, 2)
    before = whose(both)
    one = replace(both, decisions=both.decisions[:1])
    rest = {
        t.external_id: part.choice.code
        for _, part in parts_of(one, one.accounts[0], NOW)
        for t in part.things
        if part.choice.successor is None
    }
    assert set(rest) == {key for key, heir in before.items() if heir == "h1"}
    assert set(rest.values()) <= {"no-successor"}


def test_many_are_shared_about_evenly() -> None:
    found = list(whose(shared([f"r{n}" for n in range(900)], 3)).values())
    assert all(250 < found.count(f"h{n}") < 350 for n in range(3))
