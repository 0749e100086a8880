"""1,000 people searched in 100,000 exported settings: the product's finder, and one pass by an Aho–Corasick library.

Both find whom the settings name out of the same texts; one in ten names somebody, by address or by login. The
product's finds whole words only, so it is also compared with what was planted: none missed, none invented.
"""

from __future__ import annotations

import random
import resource
import time
from typing import Any

from bench.references_bare import searched
from yugum.core.mentions import Finder, Mention

PEOPLE = 1_000
WORDS = [
    "alert",
    "when",
    "low",
    "water",
    "pier",
    "watch",
    "night",
    "deck",
    "bridge",
    "call",
    "after",
    "minutes",
    "ask",
    "send",
    "week",
    "list",
]


def world(size: int) -> tuple[list[Mention], dict[str, str], set[tuple[str, str]]]:
    """Settings, the names of people by which they are found, and what was planted."""
    dice = random.Random(7)
    names: dict[str, str] = {}
    for n in range(PEOPLE):
        names[f"qx{n:04d}"] = names[f"qx{n:04d}.family@ferries.example"] = f"p{n}"
    every = list(names)
    places, planted = [], set()
    for n in range(size):
        words = [dice.choice(WORDS) for _ in range(20)]
        if n % 10 == 0:
            name = dice.choice(every)
            words.insert(dice.randrange(20), f"{name.upper() if n % 20 else name},")
            planted.add((f"s{n}", names[name]))
        if n % 50 == 1:  # nobody's: a longer word, another's address
            words += [f"{dice.choice(every)}x", "qx0001@elsewhere.example"]
        text = " ".join(words)
        places.append(Mention(application_id="a", key=f"s{n}", kind="alert", place="", text=text))
    return places, names, planted


def found(places: list[Mention], names: dict[str, str]) -> set[tuple[str, str]]:
    """As it is looked for some people."""
    of: dict[str, list[str]] = {}
    for name, person in names.items():
        of.setdefault(person, []).append(name)
    finder = Finder(of)
    return {(m.key, person) for m in places for person in finder.whom(m.text)}


def references(size: int, rounds: int) -> dict[str, Any]:
    places, names, planted = world(size)
    texts = [(m.key, m.text) for m in places]
    result = []
    for _ in range(rounds):
        began = time.perf_counter()
        bare = searched(texts, names)
        middle = time.perf_counter()
        ours = found(places, names)
        ended = time.perf_counter()
        if ours != planted or not bare >= planted:
            raise SystemExit(f"{len(planted - ours)} missed, {len(ours - planted)} invented")
        result.append(
            {
                "bare_s": round(middle - began, 3),
                "finder_s": round(ended - middle, 3),
                "ratio": round((ended - middle) / (middle - began), 3),
                "invented by the bare": len(bare - planted),
            }
        )
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    settings = {"settings": size, "people": PEOPLE, "planted": len(planted)}
    return {"settings": settings, "rounds": result, "memory": {"peak MB": peak}}
