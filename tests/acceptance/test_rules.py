"""Rules, names, approvals, credentials: through the service, the CLI and real targets."""

from __future__ import annotations

import base64
import json
import subprocess
import time
import uuid
from pathlib import Path
from typing import Any

import httpx
import pytest
import yaml

from tests.commands import cli
from tests.conftest import Theatre
from tests.proofs.play import Play
from tests.signing import token_of
from yugum.client import Client
from yugum.core.operators import OperatorRole
from yugum.core.verbs import Verb
from yugum.errors import Conflict, Forbidden, InvalidInput, NotFound, PlanStale
from yugum.wire import operators as wop
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.morrow import DIRECTORY, RULES

OTHERS = ("bkrog", "third")


@pytest.fixture
def restored(theatre: Theatre) -> Any:
    """Whatever a test adopts, afterwards the demo's rules are in force again."""
    yield
    theatre.client.rules.adopt(RULES, "as before", take_away=10_000)
    for other in theatre.client.operators.all():
        if other.login in OTHERS and other.active:
            theatre.client.operators.change(other.id, wop.OperatorChange(active=False))


def person(theatre: Theatre, **more: str) -> str:
    login = f"r{uuid.uuid4().hex[:9]}"
    theatre.client.people.create(
        [wp.NewPerson(user_name=login, given_name="Runa", family_name=login, **more)]
    )
    return login


def changed(**roles: Any) -> str:
    document = yaml.safe_load(RULES)
    for name, role in roles.items():
        document["roles"][name] = role
    return yaml.safe_dump(document, sort_keys=False)


NIGHT = {
    "when": 'title eq "Bosun"',
    "gives": [{"application": "crew-rosters", "entitlements": ["Night duty"]}],
}


def test_rules_are_checked_tried_and_adopted_by_the_command(
    theatre: Theatre, tmp_path: Path, restored: None
) -> None:
    file = tmp_path / "rules.yaml"
    file.write_text(changed(Night=NIGHT).replace("department eq", "departmnt eq", 1))
    bad = cli(theatre, "rules", "check", str(file))
    assert bad.returncode == 4
    assert f"{file}:" in bad.stdout
    assert "departmnt" in bad.stdout
    assert cli(theatre, "rules", "adopt", "--yes", str(file)).returncode == 4
    file.write_text(changed(Night=NIGHT))
    assert "no mistakes" in cli(theatre, "rules", "check", str(file)).stdout
    tried = json.loads(cli(theatre, "--output", "json", "rules", "try", str(file)).stdout)
    line = next(x for x in tried["lines"] if x["item"] == "Night duty")
    assert line["gained"] > 5
    assert line["lost"] == 0
    assert line["roles"] == ["Night"]
    before = theatre.client.rules.show().version
    adopted = cli(theatre, "rules", "adopt", "--yes", "--note", "nights", str(file))
    assert adopted.returncode == 0, adopted.stderr
    assert theatre.client.rules.show().version == before + 1
    kept = tmp_path / "kept.yaml"
    cli(theatre, "rules", "export", str(kept))
    assert kept.read_text() == file.read_text(), "comments and order are the author's"
    assert "nights" in cli(theatre, "rules", "history").stdout
    with pytest.raises(PlanStale):
        theatre.client.rules.adopt(RULES, after=before)


def test_an_adoption_takes_away_no_more_than_allowed(theatre: Theatre, restored: None) -> None:
    client = theatre.client
    limited = RULES.replace("adoption_takes_away: 200", "adoption_takes_away: 1")
    client.rules.adopt(limited, "a low ceiling")
    who = [person(theatre, department="Harbour Operations") for _ in range(2)]
    batch = client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=who))
    for docket in client.plans.confirm(batch):
        list(client.dockets.follow(docket.number))
    document = yaml.safe_load(limited)
    document["roles"]["Harbour"]["gives"][0]["entitlements"] = ["Rosters"]
    text = yaml.safe_dump(document)
    assert client.rules.try_out(text).lost >= 2
    with pytest.raises(Conflict, match="take away"):
        client.rules.adopt(text)
    client.rules.adopt(text, take_away=client.rules.try_out(text).lost, carry_out=True)
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline and "Harbour crew" in theatre.crew.groups(who[0]):
        time.sleep(0.2)
    assert theatre.crew.groups(who[0]) == {"Rosters"}


def test_the_schema_is_published_and_fits_the_rules(theatre: Theatre) -> None:
    schema = theatre.client.rules.schema()
    assert schema["$schema"].endswith("2020-12/schema")
    assert set(yaml.safe_load(RULES)) <= set(schema["properties"])
    assert json.loads(cli(theatre, "rules", "schema").stdout) == schema


def test_roles_and_people_are_compared(theatre: Theatre) -> None:
    found = theatre.client.roles.compare("Deck", "Engine Room")
    assert ("crew-rosters", "Rosters") in {(x.application_id, x.item) for x in found.both}
    assert "Deck crew" in {x.item for x in found.only_left}
    shown = cli(theatre, "roles", "compare", "Deck", "Engine Room").stdout
    assert "Only Deck" in shown
    with pytest.raises(NotFound):
        theatre.client.roles.compare("Deck", "Nobody")


def test_a_login_is_looked_up_in_every_application(theatre: Theatre) -> None:
    found = theatre.client.names.suggest(given="Svc", family="Display")
    assert next(s for s in found.names if s.kind == "login").name == "sdisplay"
    with_account = next(a for a in theatre.client.accounts.all(q="quay-desk"))
    assert with_account.person_id is None
    document = yaml.safe_load(RULES)
    assert document["naming"]["login"][0] == "{given:1}{family}"
    taken = theatre.play.organisation.people[12]
    found = theatre.client.names.suggest(given=taken.given_name, family=taken.family_name)
    tried = next(s for s in found.names if s.kind == "login").tried
    assert any(t.name == taken.user_name and taken.family_name in t.problem for t in tried)


def approving(theatre: Theatre, mode: str = "any", by: tuple[str, ...] = ("manager",)) -> None:
    document = yaml.safe_load(RULES)
    document["approvals"]["nights"] = {"by": list(by), "mode": mode, "expire_hours": 24}
    document["roles"]["Night"] = {**NIGHT, "when": 'title eq "Watch"', "approval": "nights"}
    theatre.client.rules.adopt(yaml.safe_dump(document), "approvals", take_away=10_000)


def watch(theatre: Theatre, **more: str) -> tuple[str, str]:
    """A joiner who needs approval, and the docket's number."""
    login = person(theatre, title="Watch", **more)
    batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=[login]))
    return login, theatre.client.plans.confirm(batch)[0].number


def operator(theatre: Theatre, login: str) -> Client:
    """A second operator's client; made when first needed."""
    client = theatre.client
    if login not in {o.login for o in client.operators.all()}:
        client.operators.add(wop.NewOperator(login=login, name=login.title(), role="administrator"))
    row = next(o for o in client.operators.all() if o.login == login)
    client.operators.change(row.id, wop.OperatorChange(active=True))
    return Client(theatre.stage.url, token_of(client, theatre.stage.url, login))


def test_nobody_approves_their_own_and_a_refusal_cancels(theatre: Theatre, restored: None) -> None:
    client = theatre.client
    with operator(theatre, "bkrog") as other:
        approving(theatre, by=("iholm", "bkrog"))
        login, number = watch(theatre)
        assert client.dockets.show(number).state == "awaiting"
        row = client.approvals.all(docket=number)[0]
        assert [a.key for a in row.asked] == ["operator:bkrog"], "not the author"
        with pytest.raises(Forbidden):
            client.approvals.answer(row.id, agrees=True)
        with pytest.raises(InvalidInput):
            other.approvals.answer(row.id, agrees=False)
        assert other.approvals.answer(row.id, agrees=False, note="no nights").state == "refused"
        assert client.dockets.show(number).state == "cancelled"
        assert theatre.crew.user(login) is None
        with pytest.raises(Conflict):
            other.approvals.answer(row.id, agrees=True)


def test_an_administrator_answers_for_those_who_were_asked(
    theatre: Theatre, restored: None
) -> None:
    client = theatre.client
    with operator(theatre, "bkrog") as other, operator(theatre, "third"):
        approving(theatre, mode="all", by=("third", "owner"))
        login, number = watch(theatre)
        row = client.approvals.all(docket=number)[0]
        assert "operator:bkrog" not in {a.key for a in row.asked}
        with pytest.raises(Forbidden, match="own doing"):
            client.approvals.answer(row.id, agrees=True, note="I asked for it")
        with pytest.raises(InvalidInput, match="Say why"):
            other.approvals.answer(row.id, agrees=True)
        fewer = next(o for o in client.operators.all() if o.login == "bkrog")
        client.operators.change(fewer.id, wop.OperatorChange(role=OperatorRole.OPERATOR))
        with pytest.raises(Forbidden, match="not asked"):
            other.approvals.answer(row.id, agrees=True, note="they are away")
        client.operators.change(fewer.id, wop.OperatorChange(role=OperatorRole.ADMINISTRATOR))
        assert other.approvals.answer(row.id, agrees=True, note="they are away").state == "given"
        answer = client.approvals.all(docket=number, state="given")[0].answers[-1]
        assert (answer.name, answer.note) == ("bkrog (administrator, not asked)", "they are away")
        assert list(client.dockets.follow(number))[-1].state == "done"
        assert "Night duty" in theatre.crew.groups(login)


def test_all_of_them_must_agree_and_somebody_can_be_asked_as_well(
    theatre: Theatre, restored: None
) -> None:
    client = theatre.client
    boss = theatre.play.organisation.people[0].user_name  # stays, whatever the clock says
    with operator(theatre, "bkrog") as other, operator(theatre, "third") as third:
        approving(theatre, mode="all", by=("manager", "bkrog"))
        login, number = watch(theatre, manager=boss)
        row = client.approvals.all(docket=number)[0]
        assert len(row.asked) == 2
        other.approvals.delegate(row.id, "third")
        assert other.approvals.answer(row.id, agrees=True).state == "open"
        assert third.approvals.answer(row.id, agrees=True, note="fine").state == "open"
        token = (
            theatre.play.post.wait(f"{boss}@", "Your approval")["text"].split("/a#")[1].split()[0]
        )
        opened = httpx.post(
            f"{theatre.stage.url}/api/v1/approval-links/open",
            json={"token": token, "agrees": True},
        ).json()
        assert opened["author"] == "iholm"
        assert client.approvals.by_link(token, agrees=True).state == "given"
        with pytest.raises(NotFound):
            client.approvals.by_link(token, agrees=True)
        list(client.dockets.follow(number))
        assert "Night duty" in theatre.crew.groups(login)
        events = client.audit.page(docket=number).items
        answers = [e.actor for e in events if e.action == "approval.answered"]
        assert len(answers) == 3


def test_without_a_manager_the_administrators_are_asked_and_it_says_why(
    theatre: Theatre, restored: None
) -> None:
    approving(theatre)
    with operator(theatre, "bkrog"):
        _, number = watch(theatre)
        row = theatre.client.approvals.all(docket=number)[0]
        assert "operator:bkrog" in {a.key for a in row.asked}
        assert "there is no manager" in row.asked[0].why
        shown = cli(theatre, "approvals", "list", "--docket", number).stdout
        assert "no manager" in shown
        theatre.client.dockets.cancel(number)


def test_no_credential_lies_about_in_clear(theatre: Theatre) -> None:
    """Two canaries: one made and opened, one chosen; then everything there is, is searched."""
    client = theatre.client
    address = f"{uuid.uuid4().hex[:8]}@home.example"
    login = person(theatre, department="Deck", title="Deckhand", outside_mail=address)
    document = yaml.safe_load(RULES)
    document["credentials"]["to"] = ["outside_mail"]
    client.rules.adopt(yaml.safe_dump(document), "outside", take_away=10_000)
    batch = client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=[login]))
    number = client.plans.confirm(batch)[0].number
    list(client.dockets.follow(number))
    mail = theatre.play.post.wait(address, "Staff directory")
    client.rules.adopt(RULES, "as before", take_away=10_000)
    token = mail["text"].split("/c#")[1].split()[0]
    chosen = f"Canary-{uuid.uuid4().hex}-Qx7"
    made = client.credentials.choose(token, chosen)
    list(client.dockets.follow(made.docket))
    assert theatre.play.directory.sign_in(login, chosen)
    account = next(a for a in client.people.show(login).accounts if a.application_id != DIRECTORY)
    link = client.credentials.hand_over(account.id, "known in person").link
    opened = client.accounts.open_credential(link.rsplit("#", 1)[1]).secret
    dump = subprocess.run(
        [
            "/usr/lib/postgresql/15/bin/pg_dump",
            "--inserts",
            theatre.stage.env["YUGUM_DATABASE_URL"],
        ],
        capture_output=True,
        check=True,
    ).stdout
    heap = {
        "database": dump,
        "dockets": client.dockets.show(number).model_dump_json().encode(),
        "chosen": client.dockets.show(made.docket).model_dump_json().encode(),
        "person": client.people.show(login).model_dump_json().encode(),
        "mails": b"".join(m.model_dump_json().encode() for m in client.mails.all(login)),
        "audit": "\n".join(client.audit.export()).encode(),
        **{p.name: p.read_bytes() for p in theatre.stage.folder.glob("*.log")},
    }
    assert len(dump) > 100_000
    for secret in (chosen, opened):
        forms = (
            secret.encode(),
            base64.b64encode(secret.encode())[:-4],
            secret.encode().hex().encode(),
        )
        for name, content in heap.items():
            assert not any(form in content for form in forms), f"{name} tells a credential"
    assert token.encode() not in dump, "the link is stored as a hash only"
    assert secret_mail(theatre, token), "it is in the one mail that delivers it"


def secret_mail(theatre: Theatre, token: str) -> bool:
    kept: str = (theatre.stage.folder / "post-office.jsonl").read_text()
    return kept.count(token) == 1


def test_a_rename_can_be_undone(theatre: Theatre) -> None:
    client = theatre.client
    login = person(theatre, department="Deck", title="Deckhand")
    play: Play = theatre.play
    batch = client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=[login]))
    list(client.dockets.follow(client.plans.confirm(batch)[0].number))
    new = f"{login}x"
    done = cli(theatre, "rename", login, "--login", new, "--family", "Berg", "--yes")
    assert done.returncode == 0, done.stderr
    assert play.reporting.role(new) is True
    assert play.directory.entry(new)["yugumAlias"] == [login]
    number = client.people.show(new).dockets[0].number
    batch = client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=number))
    list(client.dockets.follow(client.plans.confirm(batch)[0].number))
    view = client.people.show(login)
    assert view.family_name == login
    assert play.reporting.role(login) is True
    assert play.reporting.role(new) is None
    assert "yugumAlias" not in play.directory.entry(login)
    assert (play.crew.user(login) or {}).get("userName") == login


def test_an_adoption_takes_from_few_people_unasked(theatre: Theatre, restored: None) -> None:
    client = theatre.client
    limits = {"adoption_takes_away": 0, "adoption_percent": 0.1, "adoption_people": 3}
    document = yaml.safe_load(RULES)
    document["limits"] = limits
    client.rules.adopt(yaml.safe_dump(document), "few at once", take_away=10_000)
    who = [person(theatre, department="Harbour Operations") for _ in range(3)]
    for docket in client.plans.confirm(client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=who))):
        list(client.dockets.follow(docket.number))
    document["roles"]["Harbour"]["gives"][0]["entitlements"] = ["Rosters"]
    text = yaml.safe_dump(document)
    trial = client.rules.try_out(text)
    assert trial.losing >= 3
    with pytest.raises(Conflict, match=f"from {trial.losing} of {trial.looked_at} people") as asked:
        client.rules.adopt(text)
    assert f"--take-away {trial.lost}" in asked.value.remedy
    document["limits"] = {**limits, "adoption_people": trial.losing + 1}
    client.rules.adopt(yaml.safe_dump({**yaml.safe_load(RULES), "limits": document["limits"]}), "")
    client.rules.adopt(text)
