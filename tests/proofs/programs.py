"""Keys with which programs run while their owner leaves: asked of the application, as the programs would."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import httpx

from tests.proofs.play import Play
from yugum.core.verbs import Verb
from yugum.wire import plans as wl
from yugum.wire import references as wr

OLD = {
    "night tides": "tides-run-with-this-since-2027",
    "fog bell": "bell-runs-with-this-since-2028",
}
KEEPER = "harbour-programs@morrowsound.example"


def _panel(play: Play, path: str, **said: Any) -> dict[str, Any]:
    crew = play.crew
    reply = httpx.post(f"{crew.url}/panel/{path}", json=said, headers=dict(crew.headers))
    found: dict[str, Any] = reply.json()
    return found


def _whose(play: Play, secret: str) -> str:
    return str(_panel(play, "use-key", secret=secret)["login"])


def there(play: Play, owner: str) -> None:
    for name, secret in OLD.items():
        said = {"kind": "key", "text": owner, "secret": secret, "contact": KEEPER}
        place = f"Tides › {name} › runs with the key of"
        _panel(play, "settings", id=f"key-{name}", place=place, effect=f"{name}: silence", **said)


def _fetched(play: Play, name: str) -> str:
    """The key behind the link that whoever answers for a program was sent."""
    text = play.post.wait(KEEPER, f"A new key for Tides › {name}")["text"]
    opened = play.client.accounts.open_credential(text.split("/c#")[1].split()[0])
    return opened.secret


def beside(play: Play, owner: str, heir: str) -> str:
    """One program gets its new key before its owner leaves; what that is."""
    report, client = play.report, play.client
    report.section("One key is replaced ten days before she is to leave, one is left for the day")
    last = (client.clock.show().now + timedelta(days=10)).date()
    leaving = play.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[owner], at=str(last)))
    number = client.plans.confirm(leaving)[0].number
    asked = wr.ReplaceKeys(days=7, places=["key-night tides"], reason="the tides are read on")
    for docket in client.handover.replace_keys(owner, asked).dockets:
        list(client.dockets.follow(docket))
    new = _fetched(play, "night tides")
    seen = [_whose(play, OLD["night tides"]), _whose(play, new), _whose(play, OLD["fog bell"])]
    report.equal("the crew rosters take the old key and the new one", seen, [owner, heir, owner])
    client.dockets.cancel(number)
    return new


def after(play: Play, heir: str, new: str) -> None:
    """What the programs come with once she has left."""
    seen = [_whose(play, secret) for secret in (*OLD.values(), new)]
    play.report.equal("her keys are taken no more, Tora's is", seen, ["", "", heir])
    other = _fetched(play, "fog bell")
    play.report.equal("and the other program's new key is", _whose(play, other), heir)
