"""The same slips are refused, or asked about, over HTTP and on the command line; moves and corrections too."""

from __future__ import annotations

from typing import Any

import pytest

from tests.acceptance.test_service import newcomer
from tests.commands import cli
from tests.conftest import Theatre
from tests.entry import Known, Slip, known, slips, unique
from yugum.core.entry import Doubted
from yugum.core.verbs import Verb
from yugum.errors import Conflict, Doubtful, InvalidInput, NotFound
from yugum.wire import plans as wl

NAMES = [s.name for s in slips(Known(*"abcdefgh"))]
OPTIONS = {
    "given_name": "given",
    "family_name": "family",
    "employee_number": "number",
    "contract_ends": "ends",
    "outside_mail": "mail",
    "mail": "work-mail",
}


MEANT = {"department": "Deck", "site": "Oxhaven"}
"""Nobody keeps a mistyped value: it would be known from then on."""


@pytest.fixture(scope="module")
def table(theatre: Theatre) -> dict[str, Slip]:
    return {s.name: s for s in slips(known(theatre))}


def row(slip: Slip) -> dict[str, str]:
    login = unique()
    return {"user_name": login, "given_name": "Ida", "family_name": login.title(), **slip.fields}


@pytest.mark.parametrize("name", NAMES)
def test_over_http(theatre: Theatre, table: dict[str, Slip], name: str) -> None:
    slip = table[name]
    new = row(slip)

    def send(**more: Any) -> Any:
        body = {"people": [{**new, **more}]}
        return theatre.client._http.send("POST", "/people", body=body)

    with pytest.raises((InvalidInput, Conflict, NotFound)) as refused:
        send()
    assert slip.text in refused.value.message
    assert slip.place in refused.value.place
    assert refused.value.remedy or not slip.text
    assert isinstance(refused.value, Doubtful) is bool(slip.right)
    if slip.right:
        send(right=[slip.right])
        theatre.client.people.change(new["user_name"], MEANT)
    elif "user_name" not in slip.fields:
        with pytest.raises(NotFound):
            theatre.client.people.show(new["user_name"])


@pytest.mark.parametrize("name", NAMES)
def test_on_the_command_line(theatre: Theatre, table: dict[str, Slip], name: str) -> None:
    slip = table[name]
    new = row(slip)
    login = new.pop("user_name")
    options = [f"--{OPTIONS.get(n, n.replace('_', '-'))}={v}" for n, v in new.items()]
    refused = cli(theatre, "joiner", login, *options, "--yes", "--no-wait")
    assert refused.returncode != 0
    assert slip.text in refused.stderr
    if slip.right:
        assert f"--right {slip.right}" in refused.stderr
        no = cli(theatre, "joiner", login, *options, answer="n\n")
        assert f"{slip.text} Is it right?" in no.stderr
        with pytest.raises(NotFound):
            theatre.client.people.show(login)
        yes = cli(theatre, "joiner", login, *options, "--no-wait", answer="y\ny\n")
        assert yes.returncode == 0, yes.stderr
        theatre.client.people.change(login, MEANT)


def test_moves_and_corrections_are_looked_at_alike(theatre: Theatre) -> None:
    client = theatre.client
    boss = newcomer(theatre, employee_number=unique())
    clerk = newcomer(theatre, manager=boss)
    ids = {n: client.people.show(n).id for n in (boss, clerk)}
    number = client.people.show(boss).employee_number
    cases: list[tuple[str, dict[str, str], type[Exception], str]] = [
        (clerk, {"department": "Dekc"}, Doubtful, "nearest: Deck"),
        (boss, {"manager_id": ids[clerk]}, InvalidInput, "in a circle of 2"),
        (boss, {"manager_id": ids[boss]}, Doubtful, "manage themselves"),
        (clerk, {"employee_number": number}, Conflict, "has the number"),
    ]
    for who, changes, kind, text in cases:
        with pytest.raises(kind, match=text):
            client.people.change(who, dict(changes))
        if "employee_number" in changes:
            continue
        with pytest.raises(kind, match=text):
            client.plans.make(wl.NewPlan(verb=Verb.MOVER, who=[who], changes=dict(changes)))
    client.people.change(boss, {"manager_id": ids[boss]}, right=[Doubted.MANAGER])
    manager = client.people.show(boss).manager
    assert manager is not None
    assert manager.id == ids[boss]
    held = f"{boss}@morrowsound.example"
    client.people.change(boss, {"mail": held})
    for mail, text in ((held, "is the address of"), ("a@morowsound.example", "Nobody here has")):
        with pytest.raises((Conflict, InvalidInput), match=text):
            client.plans.make(wl.NewPlan(verb=Verb.RENAME, who=[clerk], changes={"mail": mail}))
    with pytest.raises(InvalidInput):
        client._http.send("PATCH", f"/people/{clerk}", body={"changes": {}, "right": ["shoe"]})
    leave = wl.NewPlan(verb=Verb.LEAVER, who=[clerk], right=[Doubted.SITE])
    with pytest.raises(InvalidInput, match="of a move or a rename"):
        client.plans.make(leave)
    refused = cli(theatre, "people", "correct", clerk, "department=Dekc", "--yes")
    assert "--right department" in refused.stderr
    done = cli(theatre, "mover", clerk, "--department", "Dekc", "--no-wait", answer="y\ny\n")
    assert done.returncode == 0, done.stderr
    client.people.change(clerk, {"department": "Deck"})
