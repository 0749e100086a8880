"""What people own and where they are named, against a world in which it was planted: none missed, none invented."""

from __future__ import annotations

import random
import re
from collections import Counter

import httpx
import pytest

from tests.acceptance.test_groups import typed
from tests.acceptance.test_references import place, pointed_at, rows
from tests.acceptance.test_service import joined
from tests.conftest import Theatre
from yugum_standins.morrow import CREW, DIRECTORY

PEOPLE, PLACES, THINGS, GROUPS = 6, 60, 40, 4
AROUND = [
    "{}",
    "{}",
    "({})",
    "<{}>",
    "{}.",
    "{}:",
    "'{}'",
    "to:{}",
    "{}-",
    "{}/next",
    "[{}],",
    "@{}",
]
OTHERS = [
    "{}2",
    "x{}",
    "{}@elsewhere.example",
    "{}.old",
    "_{}",
    "ü{}",
    "{}é",
    "+{}",
    "a-{}",
    "{}-b",
]
WORDS = ["ask", "bridge@ferries.example", "the", "watch", "№ 7", "…", "ring 24/7", "ß"]
BETWEEN = [", ", "; ", " ", "\t", " or "]


def sentence(dice: random.Random, names: list[str]) -> str:
    """Some words, some names, and some that only look like names."""
    found = []
    for _ in range(dice.randrange(1, 7)):
        name = dice.choice(names)
        name = dice.choice([name, name.upper(), name.title()])
        shape = dice.choice([dice.choice(AROUND), dice.choice(OTHERS), dice.choice(WORDS)])
        found.append(shape.format(name))
    return dice.choice(BETWEEN).join(found)


def named_in(text: str) -> set[str]:
    """Whoever is named, as the guide has it: words of letters, digits and ``._+-@``, less what ends a sentence."""
    words = re.findall(r"[\w.+@-]+", text.lower())
    return {word.lstrip("@").rstrip(".-") for word in words}


@pytest.mark.parametrize("seed", [1, 2])
def test_what_was_planted_is_found_and_nothing_else(theatre: Theatre, seed: int) -> None:
    client, crew, dice = theatre.client, theatre.play.crew, random.Random(seed)
    logins = [joined(theatre, "Deck") for _ in range(PEOPLE)]
    for login in logins[::2]:
        client.people.change(login, {"mail": f"{login}@morrowsound.example"})
    mails = {login: client.people.show(login).mail for login in logins}
    names = {login: {n for n in (login, mails[login]) if n} for login in logins}
    all_names = sorted(n for some in names.values() for n in some)

    texts = {}
    for number in range(PLACES):
        text = sentence(dice, all_names)
        kind = dice.choice(["alert", "schedule", "sign"])
        key = place(theatre, text, kind=kind, place=f"Planted › {seed} › {number}")
        texts[key] = text
    owned: dict[str, Counter[str]] = {login: Counter() for login in logins}
    for number in range(THINGS):
        login, kind = dice.choice(logins), dice.choice(["roster", "board", "filter"])
        body = {"userName": login, "kind": kind, "name": f"Planted {seed} {number}"}
        reply = httpx.post(f"{crew.url}/panel/items", json=body, headers=dict(crew.headers))
        reply.raise_for_status()
        owned[login][kind] += 1
    pointers: dict[str, set[str]] = {}
    for number in range(GROUPS):
        group = f"Planted {seed} {number} {logins[0]}"
        typed(theatre, "make", DIRECTORY, group, "--owner", logins[0])
        said = dice.sample(logins, dice.randrange(1, 4))
        pointers[group] = pointed_at(theatre, group, *said)
        assert pointers[group] == set(said)

    hits = 0
    for login in logins:
        found = rows(theatre, login)
        here = {key for key, row in found.items() if row.application_id == CREW}
        expected = {key for key, text in texts.items() if named_in(text) & names[login]}
        assert here == expected, [texts[key] for key in here ^ expected]
        there = {r.place for r in found.values() if r.application_id == DIRECTORY}
        assert there == {f"{g} › seeAlso" for g, some in pointers.items() if login in some}
        assert len(here) + len(there) == len(found)
        hits += len(found)
        theirs = {
            r.thing: r.count for r in client.handover.show(login).rows if r.application_id == CREW
        }
        assert theirs == dict(owned[login])
    assert hits > PEOPLE
