"""What the demo organisation has for each call of the description to be answered with yes.

For every operation a few calls are made of what there is, or is made for it; the others are as the
tool made them up.
"""

from __future__ import annotations

import json
import random
import re
import uuid
from collections import Counter
from pathlib import Path
from typing import Any

import httpx
import yaml
from schemathesis import Case

from tests.signing import PASSWORD, for_now, token_of
from yugum.client import Client
from yugum.core.verbs import Verb
from yugum.errors import YugumError
from yugum.wire import applications as wap
from yugum.wire import decisions as wde
from yugum.wire import equipment as weq
from yugum.wire import handover as wh
from yugum.wire import operators as wop
from yugum.wire import orders as wo
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire import references as wr
from yugum.wire import reservations as wrs
from yugum.wire import seats as wse
from yugum.wire import shared as ws
from yugum.wire import standing as wst
from yugum_standins.look import PostLook
from yugum_standins.morrow import CREW, DIRECTORY, PLANNER, RADIO

TIMES = 3
"""How often something is made for an operation."""
Body = dict[str, Any] | str | None
Made = tuple[dict[str, Any], Body]
STRONG = "Harbour-Light-2031-Seven"


class Staged:
    def __init__(self, where: dict[str, str]) -> None:
        self.url, self.folder = where["url"], Path(where["folder"])
        self.client = Client(where["url"], where["token"])
        self.post = PostLook(self.folder)
        self.done: Counter[str] = Counter()
        self.in_session = False

    def fill(self, case: Case[Any]) -> None:
        """Make a call one that should be answered with yes."""
        self.in_session = False
        name = str(case.operation.definition.raw["operationId"])
        make = getattr(self, re.sub(r"\W", "_", name), None)
        if make is None or self.done[name] >= TIMES:
            return
        self.done[name] += 1
        before, case.query = case.query, {}
        try:
            path, body = make(case)
        except (YugumError, StopIteration, TimeoutError, LookupError) as error:
            print(f"nothing could be made for {name}: {error!r}")
            case.query = before
            return
        if path:
            case.path_parameters = {**(case.path_parameters or {}), **path}
        if body is not None:
            case.body = body

    # What there is, or is made.

    def person(self, **more: str) -> str:
        login = f"s{uuid.uuid4().hex[:10]}"
        new = {"user_name": login, "given_name": "Sol", "family_name": login, **more}
        self.client.people.create([wp.NewPerson.model_validate(new)])
        return login

    def plan(self, verb: Verb, who: str, **more: Any) -> wl.BatchView:
        return self.client.plans.make(wl.NewPlan(verb=verb, who=[who], **more))

    def joined(self, **more: str) -> str:
        login = self.person(**more)
        docket = self.client.plans.confirm(self.plan(Verb.JOINER, login))[0]
        list(self.client.dockets.follow(docket.number, seconds=20))
        return login

    def account(self) -> str:
        login = self.joined()
        return next(
            a.id for a in self.client.people.show(login).accounts if a.application_id == DIRECTORY
        )

    def link(self) -> str:
        made = self.client.credentials.hand_over(self.account(), "known in person")
        return made.link.rsplit("#", 1)[1]

    def docket(self, at: str = "+300d") -> str:
        batch = self.plan(Verb.LEAVER, self.joined(), at=at)
        return str(self.client.plans.confirm(batch)[0].number)

    def operator(self) -> str:
        login = f"o{uuid.uuid4().hex[:10]}"
        self.client.operators.add(wop.NewOperator(login=login, name="O", role="administrator"))
        return login

    def signed_in(self, case: Case[Any]) -> Client:
        """A session of somebody new, in which the call is made."""
        session = self._session()
        inner = session._http._client
        case.headers["Cookie"] = "; ".join(f"{c.name}={c.value}" for c in inner.cookies.jar)
        self.in_session = True
        case.headers["X-Yugum-CSRF"] = inner.headers["X-Yugum-CSRF"]
        return session

    def _session(self) -> Client:
        login = self.operator()
        link = self.client.operators.link(login).link.rsplit("#", 1)[1]
        with Client.by_link(self.url, link) as session:
            session.sessions.set_password(PASSWORD)
        return Client.signed_in(self.url, login, PASSWORD)

    def waiting(self, by: Client | None = None) -> str:
        """The login of somebody whose joiner plan, confirmed by somebody, waits for their manager."""
        boss = next(p for p in self.client.people.all() if p.state == "active")
        login = self.person(department="Finance", manager=boss.user_name)
        client = by or self.client
        client.plans.confirm(client.plans.make(wl.NewPlan(verb=Verb.JOINER, who=[login])))
        return login

    def approval(self, by: Client | None = None) -> str:
        login = self.waiting(by)
        row = next(a for a in self.client.approvals.all() if a.subject_name.endswith(login))
        return row.id

    # By operation.

    def accounts_new_credential(self, _: Case[Any]) -> Made:
        return {"account_id": self.account()}, {"reason": "lost"}

    def accounts_hand_over(self, _: Case[Any]) -> Made:
        return {"account_id": self.account()}, {"check": "known in person"}

    def accounts_link(self, _: Case[Any]) -> Made:
        account = next(a for a in self.client.accounts.all() if a.person_id is None)
        return {"account_id": account.id}, {"who": self.person()}

    def applications_connect(self, _: Case[Any]) -> Made:
        name = f"by-hand-{uuid.uuid4().hex[:6]}"
        return {}, {"id": name, "name": name, "kind": "manual"}

    def _manual(self) -> str:
        name = f"manual-{uuid.uuid4().hex[:6]}"
        self.client.applications.connect(wap.ConnectApplication(id=name, name=name, kind="manual"))
        return name

    def applications_archived(self, _: Case[Any]) -> Made:
        return {"application_id": CREW}, None

    applications_readings = applications_unreadable = applications_archived

    def applications_upload(self, _: Case[Any]) -> Made:
        return {"application_id": self._manual()}, "login,name\nsol,Sol\n"

    def applications_plan_disconnection(self, _: Case[Any]) -> Made:
        return {"application_id": self._manual()}, None

    def applications_disconnect(self, _: Case[Any]) -> Made:
        name = self._manual()
        plan = self.client.applications.plan_disconnection(name)
        return {"application_id": name}, {"digest": plan.digest, "reason": "sold"}

    def applications_hold(self, _: Case[Any]) -> Made:
        return {"application_id": self._manual()}, {"reason": "auditors"}

    def applications_change_profile(self, _: Case[Any]) -> Made:
        return {"application_id": self._manual()}, {"window_days": 20}

    def applications_read(self, _: Case[Any]) -> Made:
        return {"application_id": self._manual()}, None

    def applications_trust(self, _: Case[Any]) -> Made:
        return {"application_id": self._manual()}, {"trust": "add"}

    def applications_retry_unreadable(self, _: Case[Any]) -> Made:
        odd = self.client.applications.unreadable("scrap")[0]
        return {"application_id": "scrap", "external_id": odd.external_id}, None

    def approvals_answer(self, _: Case[Any]) -> Made:
        with self._session() as other:  # nobody approves their own doing
            return {"approval_id": self.approval(other)}, {"agrees": True, "note": "they are away"}

    def approvals_delegate(self, _: Case[Any]) -> Made:
        return {"approval_id": self.approval()}, {"to": self.operator()}

    def approvals_answer_link(self, _: Case[Any]) -> Made:
        login = self.waiting()
        text = self.post.wait("", login)["text"]
        return {}, {"token": text.split("/a#")[1].split()[0], "agrees": True}

    approvals_open_link = approvals_answer_link

    def clock_advance(self, _: Case[Any]) -> Made:
        return {}, {"to": "+1h"}

    def credentials_choose(self, _: Case[Any]) -> Made:
        return {}, {"token": self.link(), "password": STRONG}

    def credentials_open(self, _: Case[Any]) -> Made:
        return {}, {"token": self.link()}

    credentials_rules = credentials_open

    def decisions_make(self, _: Case[Any]) -> Made:
        return {}, {"who": self.person(), "kind": "hold", "reason": "auditors"}

    def decisions_end(self, _: Case[Any]) -> Made:
        new = wde.NewDecision(who=self.person(), kind="hold", reason="auditors")
        return {"decision_id": self.client.decisions.make(new).id}, None

    def _stuck(self) -> tuple[str, str]:
        """A docket that waits for a task, and the step that does."""
        batch = self.plan(Verb.JOINER, self.person(title="Bosun"))
        number = self.client.plans.confirm(batch)[0].number
        for view in self.client.dockets.follow(number, seconds=20):
            for step in view.steps:
                if step.application_id == RADIO and step.state == "intent":
                    return str(number), step.id
        raise StopIteration

    def dockets_settle_step(self, _: Case[Any]) -> Made:
        number, step = self._stuck()
        self.client.tasks.refuse(self._task_of(number), "no exam yet")
        return {"step_id": step}, {"how": "left_out", "note": "not needed"}

    def dockets_end(self, _: Case[Any]) -> Made:
        return {"name": self._stuck()[0]}, {"reason": "not needed"}

    def dockets_show(self, _: Case[Any]) -> Made:
        return {"name": next(str(d.number) for d in self.client.dockets.all())}, None

    dockets_record = dockets_show

    def dockets_events(self, _: Case[Any]) -> Made:
        done = next(d for d in self.client.dockets.all() if d.state == "done")
        return {"name": str(done.number)}, None

    def dockets_tell(self, _: Case[Any]) -> Made:
        return {"name": self.docket()}, None

    def dockets_cancel(self, _: Case[Any]) -> Made:
        return {"name": self.docket()}, {"reason": "stays"}

    def _deviation(self) -> str:
        return next(d.id for d in self.client.findings.outside())

    def findings_keep(self, _: Case[Any]) -> Made:
        return {"deviation_id": self._deviation()}, None

    findings_revert = findings_keep

    def names_explain(self, case: Case[Any]) -> Made:
        case.query = {"who": self.person()}
        return {}, None

    credentials_list = names_explain

    def people_cut_off_sheet(self, case: Case[Any]) -> Made:
        case.query = {"who": [self.person()]}
        return {}, None

    def names_compare(self, case: Case[Any]) -> Made:
        case.query = {"left": self.person(), "right": self.person()}
        return {}, None

    def roles_compare(self, case: Case[Any]) -> Made:
        roles = self.client.roles.all()
        case.query = {"left": roles[0].name, "right": roles[1].name}
        return {}, None

    def people_list(self, case: Case[Any]) -> Made:
        case.query = {"filter": 'department eq "Deck"'}
        return {}, None

    def integrations_add(self, case: Case[Any]) -> Made:
        self.signed_in(case)
        return {}, {"login": f"i{uuid.uuid4().hex[:8]}", "name": "Feed", "role": "viewer"}

    def _integration(self, case: Case[Any]) -> str:
        login = f"i{uuid.uuid4().hex[:8]}"
        new = wop.NewIntegration(login=login, name="Feed", role="viewer")
        self.signed_in(case).integrations.add(new)
        return login

    def integrations_end(self, case: Case[Any]) -> Made:
        return {"login": self._integration(case)}, None

    def integrations_change(self, case: Case[Any]) -> Made:
        return {"login": self._integration(case)}, {"owner": self.operator()}

    def operators_add(self, _: Case[Any]) -> Made:
        return {}, {"login": f"o{uuid.uuid4().hex[:8]}", "name": "O", "role": "viewer"}

    def operators_link(self, _: Case[Any]) -> Made:
        return {"login": self.operator()}, None

    def operators_change(self, _: Case[Any]) -> Made:
        login = self.operator()
        row = next(o for o in self.client.operators.all() if o.login == login)
        return {"operator_id": row.id}, {"role": "viewer"}

    def people_show(self, _: Case[Any]) -> Made:
        return {"who": self.person()}, None

    people_decisions = people_handover = people_references = people_given = people_show

    def people_change(self, _: Case[Any]) -> Made:
        return {"who": self.person()}, {"changes": {"title": "Cook"}}

    def people_decline(self, _: Case[Any]) -> Made:
        return {"who": self.person()}, {"reason": "not coming"}

    def people_merge(self, _: Case[Any]) -> Made:
        return {"who": self.person()}, {"other": self.person()}

    def people_birthday(self, _: Case[Any]) -> Made:
        return {"who": self.person()}, {"birthday": "1990-05-31"}

    def people_same_as(self, _: Case[Any]) -> Made:
        return {"who": self.person(), "like": self.person()}, None

    def plans_make(self, _: Case[Any]) -> Made:
        return {}, {"verb": "joiner", "who": [self.person()]}

    def plans_show(self, _: Case[Any]) -> Made:
        return {"batch_id": self.plan(Verb.JOINER, self.person()).id}, None

    def plans_confirm(self, _: Case[Any]) -> Made:
        batch = self.plan(Verb.JOINER, self.person())
        return {"batch_id": batch.id}, {"digest": batch.digest}

    def plans_fire(self, _: Case[Any]) -> Made:
        batch = self.plan(Verb.LEAVER, self.joined(), confidential=True, reason="in confidence")
        return {"batch_id": batch.id}, {}

    def rules_adopt(self, _: Case[Any]) -> Made:
        return {}, {"text": self.client.rules.show().text}

    def rules_version(self, _: Case[Any]) -> Made:
        return {"version": self.client.rules.versions()[0].version}, None

    def seats_put(self, _: Case[Any]) -> Made:
        pool = self.client.seats.all()[0]
        body = {"application_id": pool.application_id, "license": pool.license}
        return {}, {**body, "price": "4.50", "currency": "EUR"}

    def seats_holders(self, _: Case[Any]) -> Made:
        return {"pool_id": self.client.seats.all()[0].id}, None

    seats_show = seats_forecast = seats_reclaimable = seats_reservations = seats_asked = (
        seats_holders
    )

    def seats_what_if(self, case: Case[Any]) -> Made:
        return self.seats_holders(case)[0], {"bought": ["3@2031-06-01"]}

    def _found(self) -> list[dict[str, str]]:
        found = next(f for f in self.client.findings.all() if f.kind != "outside")
        return [{"kind": str(found.kind), "key": found.key}]

    def findings_accept(self, _: Case[Any]) -> Made:
        more = {"until": "+30d", "reason": "it is being seen to"}
        return {}, {"items": self._found(), **more}

    def findings_reopen(self, _: Case[Any]) -> Made:
        return {}, {"items": self._found()}

    def people_redirect(self, _: Case[Any]) -> Made:
        login = self.joined()
        batch = self.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True))
        number = self.client.plans.confirm(batch)[0].number
        list(self.client.dockets.follow(number, seconds=20))
        return {"who": login}, None

    def people_replace_keys(self, _: Case[Any]) -> Made:
        """Somebody with whose key a program runs is to leave, and somebody comes after."""
        login, heir = self.joined(department="Deck"), self.joined(department="Deck")
        notes = json.loads((self.folder / f"{CREW}.json").read_text())
        said = {"kind": "key", "place": f"Tides {login}", "text": login}
        said |= {"secret": f"a-key-{uuid.uuid4().hex}", "contact": "tides@morrowsound.example"}
        url = f"http://127.0.0.1:{notes['port']}/panel/settings"
        headers = {"Authorization": f"Bearer {notes['token']}"}
        httpx.post(url, json=said, headers=headers).raise_for_status()
        self.client.plans.confirm(self.plan(Verb.LEAVER, login, at="+40d", successor=heir))
        return {"who": login}, {"days": 3, "reason": "the program goes on"}

    def people_tell_key(self, case: Case[Any]) -> Made:
        who, body = self.people_replace_keys(case)
        done = self.client.handover.replace_keys(who["who"], wr.ReplaceKeys.model_validate(body))
        list(self.client.dockets.follow(done.dockets[0], seconds=20))
        key = self.client.handover.references(who["who"]).replaced[0]
        return {**who, "key_id": key.id}, None

    def people_choose_handover(self, _: Case[Any] | None) -> tuple[dict[str, Any], dict[str, Any]]:
        heir = self.joined(department="Deck")
        owners = (p.user_name for p in self.client.people.all(department="Deck"))
        views = (self.client.handover.show(who) for who in owners)
        who, row = next((v.user_name, r) for v in views for r in v.rows)
        return {"who": who}, {"reason": "so", "thing": row.thing, "to": heir}

    def asked_takeover(self) -> tuple[str, str]:
        """A question to somebody who is to take something over, and the token of its link."""
        document = yaml.safe_load(self.client.rules.show().text)
        if "ask" not in document.get("handover", {}):
            document.setdefault("handover", {})["ask"] = {"days": 9}
            self.client.rules.adopt(yaml.safe_dump(document), "asked first", take_away=10_000)
        case, chosen = self.people_choose_handover(None)
        heir, who = chosen["to"], case["who"]
        address = f"{heir}@morrowsound.example"
        self.client.people.change(heir, {"mail": address})
        self.client.handover.choose(who, wh.ChooseHandover.model_validate(chosen))
        self.client.plans.confirm(self.plan(Verb.LEAVER, who, at="+40d"))
        text = self.post.wait(address, "Do you take over")["text"]
        row = next(r for r in self.client.handover.asked(answer="open") if r.address == address)
        return row.id, text.rsplit("/t#", 1)[1].strip()

    def takeovers_answer(self, _: Case[Any]) -> Made:
        return {"takeover_id": self.asked_takeover()[0]}, {"answer": "accepted", "note": "told so"}

    def takeovers_open_link(self, _: Case[Any]) -> Made:
        return {}, {"token": self.asked_takeover()[1]}

    def takeovers_answer_link(self, _: Case[Any]) -> Made:
        takeover, token = self.asked_takeover()
        return {}, {"token": token, "id": takeover, "answer": "accepted"}

    def new_pool(self) -> wse.PoolView:
        first = self.client.seats.all()[0]
        body = wse.PutPool(application_id=first.application_id, license=f"L {uuid.uuid4().hex[:8]}")
        return self.client.seats.buy(self.client.seats.put(body).id, wse.PutPurchase(count=2))

    def seats_remove(self, _: Case[Any]) -> Made:
        return {"pool_id": self.new_pool().id}, None

    def seats_buy(self, _: Case[Any]) -> Made:
        return {"pool_id": self.new_pool().id}, {"count": 3}

    def seats_change_purchase(self, case: Case[Any]) -> Made:
        return self.seats_unbuy(case)[0], {"count": 3}

    def seats_unbuy(self, _: Case[Any]) -> Made:
        pool = self.new_pool()
        return {"pool_id": pool.id, "purchase_id": pool.purchases[0].id}, None

    def orders_ask(self, _: Case[Any]) -> Made:
        return {}, {"pool_id": self.new_pool().id, "count": 2, "reason": "the fair"}

    def new_order(self) -> str:
        new = wo.NewOrder(pool_id=self.new_pool().id, count=2, reason="the fair")
        return self.client.orders.ask(new).id

    def orders_show(self, _: Case[Any]) -> Made:
        return {"order_id": self.new_order()}, None

    orders_request = orders_show

    def orders_decide(self, _: Case[Any]) -> Made:
        return {"order_id": self.new_order()}, {"agreed": True}

    def orders_withdraw(self, _: Case[Any]) -> Made:
        return {"order_id": self.new_order()}, {"answer": "not needed"}

    def agreed_order(self) -> str:
        order = self.new_order()
        with (
            for_now(self.client, "buyer", "administrator"),
            Client(self.url, token_of(self.client, self.url, "buyer")) as other,
        ):
            other.orders.decide(order, agreed=True)
        return order

    def orders_expect(self, _: Case[Any]) -> Made:
        today = self.client.clock.show().now.date()
        return {"order_id": self.agreed_order()}, {"on": str(today)}

    def orders_arrive(self, _: Case[Any]) -> Made:
        return {"order_id": self.agreed_order()}, {}

    def asked_pool(self) -> str:
        """A pool whose rules have those asked who do not use a seat of it."""
        pool = next(p for p in self.client.seats.all() if p.license == PLANNER)
        document = yaml.safe_load(self.client.rules.show().text)
        licenses = document.setdefault("licenses", {}).setdefault(CREW, {})
        if licenses.get(PLANNER, {}).get("ask_days") != 9:
            licenses[PLANNER] = {"unused_days": 20, "ask_days": 9}
            self.client.rules.adopt(yaml.safe_dump(document), "asked first", take_away=10_000)
        return pool.id

    def seats_ask(self, _: Case[Any]) -> Made:
        return {"pool_id": self.asked_pool()}, None

    def seats_open_link(self, _: Case[Any]) -> Made:
        self.client.seats.ask_unused(self.asked_pool())
        mails = [m["text"] for m in self.post.mails() if "Do you still need" in m["subject"]]
        return {}, {"token": mails[self.done["seats.open-link"]].rsplit("/k#", 1)[1].strip()}

    def seats_answer_link(self, case: Case[Any]) -> Made:
        self.seats_open_link(case)
        mails = [m["text"] for m in self.post.mails() if "Do you still need" in m["subject"]]
        token = mails[self.done["seats.answer-link"]].rsplit("/k#", 1)[1].strip()
        return {}, {"token": token, "keeps": True}

    def seats_allocate(self, _: Case[Any]) -> Made:
        turn = {"person": self.joined(), "pool_id": self.new_pool().id, "give": True}
        return {}, {"turns": [turn], "reason": "the fair"}

    def seats_held(self, case: Case[Any]) -> Made:
        today = str(self.client.clock.show().now.date())
        case.query = {"begin": today, "end": today}
        return {}, None

    def seats_check_file(self, _: Case[Any]) -> Made:
        pool = self.new_pool()
        return {}, f"person,license,seat\n{self.person()},{pool.license},give\n"

    def seats_reserve(self, _: Case[Any]) -> Made:
        body = {"who": 'title eq "Rigger"', "reason": "the June crew"}
        return {"pool_id": self.new_pool().id}, body

    def seats_withdraw_reservation(self, _: Case[Any]) -> Made:
        pool = self.new_pool()
        new = wrs.NewReservation(who='title eq "Rigger"', reason="the June crew")
        made = self.client.seats.reserve(pool.id, new)
        return {"pool_id": pool.id, "reservation_id": made.id}, None

    def seats_reclaim(self, _: Case[Any]) -> Made:
        held = next(
            (pool.id, holder.person_id)
            for pool in self.client.seats.all()
            for holder in self.client.seats.holders(pool.id)
            if holder.person_id and holder.state == "held"
        )
        return {"pool_id": held[0]}, {"people": [held[1]], "reason": "unused"}

    def session_sign_in(self, case: Case[Any]) -> Made:
        login = str(self.signed_in(case).session().operator.login)
        return {}, {"login": login, "password": PASSWORD}

    def session_sign_in_by_link(self, _: Case[Any]) -> Made:
        link = self.client.operators.link(self.operator()).link
        return {}, {"token": link.rsplit("#", 1)[1]}

    def session_show(self, case: Case[Any]) -> Made:
        self.signed_in(case)
        return {}, None

    session_sign_out = session_show

    def session_sign_out_others(self, case: Case[Any]) -> Made:
        self.signed_in(case)
        return {}, {"password": PASSWORD}

    def session_set_password(self, case: Case[Any]) -> Made:
        self.signed_in(case)
        return {}, {"password": f"{PASSWORD} {random.random()}", "current": PASSWORD}

    def _shared(self) -> str:
        name = f"safe-{uuid.uuid4().hex[:6]}"
        self.client.shared.put(ws.NewShared(id=name, name=name))
        return name

    def shared_drop(self, _: Case[Any]) -> Made:
        return {"shared_id": self._shared()}, None

    shared_knowers = shared_drop

    def shared_changed(self, _: Case[Any]) -> Made:
        return {"shared_id": self._shared()}, {"note": "new number"}

    def shared_know(self, _: Case[Any]) -> Made:
        return {"shared_id": self._shared()}, {"add": [self.person()]}

    def _thing(self) -> dict[str, Any]:
        name = f"key-{uuid.uuid4().hex[:6]}"
        self.client.equipment.put(weq.NewThing(id=name, name=name, holder=self.person()))
        return {"thing_id": name}

    def equipment_drop(self, _: Case[Any]) -> Made:
        return self._thing(), None

    def equipment_back(self, _: Case[Any]) -> Made:
        return self._thing(), {"note": "in the box"}

    def _difference(self) -> dict[str, Any]:
        row = next(
            r for r in self.client.standing.all(status="finding") if r.application_id and r.item
        )
        return {
            "who": row.user_name,
            "application_id": row.application_id,
            "kind": row.kind,
            "item": row.item,
            "side": row.side,
            "reason": "known",
        }

    def standing_accept(self, _: Case[Any]) -> Made:
        return {}, self._difference()

    def standing_reopen(self, _: Case[Any]) -> Made:
        made = self.client.standing.accept(wst.Accept.model_validate(self._difference()))
        return {"acceptance_id": made.id}, None

    def _task(self) -> str:
        return self._task_of(self._stuck()[0])

    def _task_of(self, number: str) -> str:
        docket = self.client.dockets.show(number)
        return next(t.id for t in self.client.tasks.all() if docket.subject_login in t.instructions)

    def tasks_done(self, _: Case[Any]) -> Made:
        return {"task_id": self._task()}, {"evidence": "folder 12"}

    def tasks_refuse(self, _: Case[Any]) -> Made:
        return {"task_id": self._task()}, {"reason": "no exam yet"}

    def tokens_add(self, case: Case[Any]) -> Made:
        self.signed_in(case)
        return {}, {"name": "t", "scope": "viewer", "days": 1, "password": PASSWORD}

    def tokens_revoke(self, case: Case[Any]) -> Made:
        new = wop.NewToken(name="t", scope="viewer", days=1, password=PASSWORD)
        return {"token_id": self.signed_in(case).tokens.add(new).id}, None
