"""``Client``: one attribute a noun, the same names as in the API and the CLI."""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping, Sequence
from datetime import datetime
from types import TracebackType
from typing import Any

from yugum.client.http import Http, Noun, every
from yugum.client.rules import Approvals, Credentials, Mails, Names, Roles, Rules
from yugum.client.shared import Shared
from yugum.core.applications import Trust
from yugum.errors import Conflict
from yugum.wire import dockets as wd
from yugum.wire import nouns as wn
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum.wire.common import Page

ENDED = ("done", "cancelled", "superseded", "awaiting")
"""States in which nothing more happens by itself; one that awaits needs somebody's agreement."""


class People(Noun):
    def page(self, **choices: Any) -> Page[wp.PersonRow]:
        """A page; choices are ``q``, ``filter``, ``state``, ``cursor`` and ``limit``."""
        return self._http.page(wp.PersonRow, "/people", **choices)

    def all(self, **choices: Any) -> Iterator[wp.PersonRow]:
        return every(lambda cursor: self.page(cursor=cursor, limit=200, **choices))

    def show(self, who: str) -> wp.PersonView:
        return self._http.model(wp.PersonView, "GET", f"/people/{who}")

    def joiners(self, before: int = 7, ahead: int = 14) -> Iterator[wp.JoinerRow]:
        """Who begins from ``before`` days ago to ``ahead`` days on, with what is missing."""
        days = {"before": before, "ahead": ahead}
        return every(
            lambda cursor: self._http.page(
                wp.JoinerRow, "/people/joiners", cursor=cursor, limit=200, **days
            )
        )

    def would_get(self, **fields: str) -> list[wp.GivenLine]:
        """What somebody with these fields would have, and why."""
        body = wp.WouldGet.model_validate(fields)
        lines = self._http.send("POST", "/people/would-get", body=body).json()
        return [wp.GivenLine.model_validate(line) for line in lines]

    def same_as(self, who: str, like: str) -> wp.SameAs:
        """What it takes for ``who`` to be as ``like``, roles apart from exceptions."""
        return self._http.model(wp.SameAs, "GET", f"/people/{who}/same-as/{like}")

    def create(self, people: Sequence[wp.NewPerson]) -> list[dict[str, str]]:
        body = wp.NewPeople(people=list(people))
        created: list[dict[str, str]] = self._http.send("POST", "/people", body=body).json()
        return created

    def change(
        self,
        who: str,
        changes: Mapping[str, str | None],
        *,
        reason: str = "",
        rev: int | None = None,
    ) -> dict[str, str]:
        headers = {"If-Match": f'"{rev}"'} if rev is not None else {}
        body = wp.PersonChange(changes=dict(changes), reason=reason)
        changed: dict[str, str] = self._http.send(
            "PATCH", f"/people/{who}", body=body, headers=headers
        ).json()
        return changed

    def merge(self, who: str, other: str, reason: str = "") -> dict[str, str]:
        """Make one person of two who are the same; ``other`` goes."""
        body = wp.MergePeople(other=other, reason=reason)
        merged: dict[str, str] = self._http.send("POST", f"/people/{who}/merge", body=body).json()
        return merged

    def decisions(self, who: str) -> list[wp.DecisionLine]:
        return list(
            every(
                lambda cursor: self._http.page(
                    wp.DecisionLine, f"/people/{who}/decisions", cursor=cursor
                )
            )
        )


class Decisions(Noun):
    def make(self, decision: wn.NewDecision) -> wn.DecisionView:
        return self._http.model(wn.DecisionView, "POST", "/decisions", body=decision)

    def end(self, decision_id: str) -> wn.DecisionView:
        return self._http.model(wn.DecisionView, "DELETE", f"/decisions/{decision_id}")


class Plans(Noun):
    def make(self, plan: wl.NewPlan) -> wl.BatchView:
        return self._http.model(wl.BatchView, "POST", "/plans", body=plan)

    def show(self, batch_id: str) -> wl.BatchView:
        return self._http.model(wl.BatchView, "GET", f"/plans/{batch_id}")

    def confirm(
        self,
        batch: wl.BatchView,
        *,
        reference: str = "",
        reason: str = "",
        typed: str = "",
        override: str = "",
    ) -> list[wl.ConfirmedDocket]:
        body = wl.Confirm(
            digest=batch.digest, reference=reference, reason=reason, typed=typed, override=override
        )
        path = f"/plans/{batch.id}/confirm"
        return self._http.model(wl.Confirmed, "POST", path, body=body).dockets

    def prepared(self) -> list[wl.Prepared]:
        """What you keep in confidence."""
        return self._http.models(wl.Prepared, "/plans")

    def fire(
        self, batch_id: str, *, reference: str = "", reason: str = ""
    ) -> list[wl.ConfirmedDocket]:
        """Carry out at once what was prepared in confidence."""
        body = wl.Fire(reference=reference, reason=reason)
        path = f"/plans/{batch_id}/fire"
        return self._http.model(wl.Confirmed, "POST", path, body=body).dockets


class Dockets(Noun):
    def page(self, **choices: Any) -> Page[wd.DocketRow]:
        """A page; choices are ``state``, ``verb``, ``who``, ``batch``, ``stuck``, ``cursor``."""
        return self._http.page(wd.DocketRow, "/dockets", **choices)

    def all(self, **choices: Any) -> Iterator[wd.DocketRow]:
        return every(lambda cursor: self.page(cursor=cursor, limit=200, **choices))

    def show(self, name: str) -> wd.DocketView:
        return self._http.model(wd.DocketView, "GET", f"/dockets/{name}")

    def record(self, name: str, form: str = "json", *, batch: bool = False) -> str:
        """Everything a docket changed, as text in a form: json, csv or html."""
        params = {"form": form, "batch": batch}
        return str(self._http.send("GET", f"/dockets/{name}/record", params=params).text)

    def tell(self, name: str) -> wd.DocketView:
        """Send the notices that were withheld while a docket was confidential."""
        return self._http.model(wd.DocketView, "POST", f"/dockets/{name}/tell")

    def cancel(self, name: str, reason: str = "") -> wd.DocketView:
        body = wd.Cancel(reason=reason)
        return self._http.model(wd.DocketView, "POST", f"/dockets/{name}/cancel", body=body)

    def settle(self, step_id: str, how: str, note: str = "") -> wd.DocketView:
        body = {"how": how, "note": note}
        return self._http.model(wd.DocketView, "POST", f"/dockets/steps/{step_id}", body=body)

    def follow(self, name: str, *, seconds: float = 120.0) -> Iterator[wd.DocketView]:
        """The docket each time it has changed, until it has ended or only waits for somebody.

        Raises:
            Conflict: it has not come to rest within ``seconds``.
        """
        deadline = time.monotonic() + seconds
        last = None
        while True:
            view = self.show(name)
            if view != last:
                last = view
                yield view
            if at_rest(view):
                return
            if time.monotonic() > deadline:
                raise Conflict(f"{view.number} is still running after {seconds:g} seconds.")
            time.sleep(0.1)


def at_rest(view: wd.DocketView) -> bool:
    """Whether nothing more happens soon by itself.

    It has ended, has not begun, or each account's first open step waits for somebody.
    """
    if view.state in ENDED or (
        view.state == "scheduled" and not view.steps and not view.begins_now
    ):
        return True
    if view.state != "running":
        return False
    heads: dict[str, wd.StepView] = {}
    for step in view.steps:
        if step.state not in ("done", "left_out"):
            heads.setdefault(step.account_id, step)
    return bool(heads) and all(
        s.state in ("waiting", "attention") or s.problem is not None for s in heads.values()
    )


class Applications(Noun):
    def all(self) -> list[wn.ApplicationRow]:
        return self._http.models(wn.ApplicationRow, "/applications")

    def kinds(self) -> list[str]:
        """The kinds of application for which a connector is installed."""
        return [str(kind) for kind in self._http.send("GET", "/applications/kinds").json()]

    def connect(self, application: wn.ConnectApplication) -> wn.ApplicationRow:
        """Connect an application, or connect a known one again; what is not set stays."""
        body = application.model_dump(mode="json", exclude_unset=True)
        return self._http.model(wn.ApplicationRow, "POST", "/applications", body=body)

    def read(
        self, application_id: str, *, mode: str = "full", believe: bool = False
    ) -> wn.ReadingResult:
        path = f"/applications/{application_id}/read"
        params = {"mode": mode, "believe": believe}
        return self._http.model(wn.ReadingResult, "POST", path, params=params)

    def readings(self, application_id: str) -> Page[wn.ReadingRow]:
        return self._http.page(wn.ReadingRow, f"/applications/{application_id}/readings")

    def unreadable(self, application_id: str) -> list[wn.ReadingProblem]:
        """Records that could not be understood, each with its reason."""
        path = f"/applications/{application_id}/unreadable"
        return list(every(lambda c: self._http.page(wn.ReadingProblem, path, cursor=c)))

    def retry(self, application_id: str, external_id: str) -> wn.ReadingResult:
        path = f"/applications/{application_id}/unreadable/{external_id}/retry"
        return self._http.model(wn.ReadingResult, "POST", path)

    def trust(self, application_id: str, trust: Trust) -> wn.ApplicationRow:
        path = f"/applications/{application_id}/trust"
        body = wn.TrustChange(trust=trust)
        return self._http.model(wn.ApplicationRow, "PATCH", path, body=body)

    def change_profile(self, application_id: str, profile: wn.ProfileDocument) -> wn.ApplicationRow:
        """Change what is set in ``profile``; the rest stays."""
        path = f"/applications/{application_id}/profile"
        body = profile.model_dump(mode="json", exclude_unset=True)
        return self._http.model(wn.ApplicationRow, "PATCH", path, body=body)

    def upload(self, application_id: str, text: str) -> wn.Uploaded:
        """Take a CSV file as what a manual application holds."""
        path = f"/applications/{application_id}/accounts-file"
        return self._http.model(
            wn.Uploaded, "POST", path, content=text.encode(), headers={"Content-Type": "text/csv"}
        )


class Accounts(Noun):
    def page(self, **choices: Any) -> Page[wn.AccountRow]:
        return self._http.page(wn.AccountRow, "/accounts", **choices)

    def all(self, **choices: Any) -> Iterator[wn.AccountRow]:
        return every(lambda cursor: self.page(cursor=cursor, limit=200, **choices))

    def proposals(self) -> list[wn.Proposal]:
        """Links that somebody should look at, the most likely first."""
        return list(every(lambda c: self._http.page(wn.Proposal, "/accounts/proposals", cursor=c)))

    def link(self, account_id: str, who: str, kind: str = "") -> dict[str, str | None]:
        """Say who is behind an account; ``who`` empty: nobody."""
        body = wn.LinkAccount.model_validate({"who": who, "kind": kind})
        reply: dict[str, str | None] = self._http.send(
            "PUT", f"/accounts/{account_id}/person", body=body
        ).json()
        return reply

    def credential_link(self, account_id: str) -> wn.CredentialLink:
        path = f"/accounts/{account_id}/credential-link"
        return self._http.model(wn.CredentialLink, "POST", path)

    def open_credential(self, token: str) -> wn.OpenedCredential:
        """What is behind a one-time link's token; works once."""
        body = wn.LinkRequest(token=token)
        return self._http.model(wn.OpenedCredential, "POST", "/credentials/open", body=body)


class Seats(Noun):
    def all(self) -> list[wn.PoolRow]:
        return self._http.models(wn.PoolRow, "/seats")

    def put(self, pool: wn.PutPool) -> wn.PoolRow:
        return self._http.model(wn.PoolRow, "POST", "/seats", body=pool)

    def holders(self, pool_id: str) -> list[wn.SeatHolder]:
        path = f"/seats/{pool_id}/holders"
        return list(every(lambda c: self._http.page(wn.SeatHolder, path, cursor=c, limit=200)))


class Findings(Noun):
    def all(self, kind: str = "") -> Iterator[wn.Finding]:
        return every(
            lambda c: self._http.page(wn.Finding, "/findings", kind=kind, cursor=c, limit=200)
        )

    def counts(self) -> list[wn.FindingCount]:
        return self._http.models(wn.FindingCount, "/findings/counts")

    def outside(self, application: str = "", state: str = "open") -> list[wn.Deviation]:
        """Changes made outside Yugum."""
        params = {"application": application, "state": state}
        return list(
            every(lambda c: self._http.page(wn.Deviation, "/findings/outside", cursor=c, **params))
        )

    def keep(self, deviation_id: str) -> wn.Decided:
        return self._http.model(wn.Decided, "POST", f"/findings/outside/{deviation_id}/keep")

    def revert(self, deviation_id: str) -> wn.Decided:
        return self._http.model(wn.Decided, "POST", f"/findings/outside/{deviation_id}/revert")


class Tasks(Noun):
    def all(self, **choices: Any) -> Iterator[wn.TaskRow]:
        """Tasks; choices are ``state`` and ``application``."""
        return every(lambda c: self._http.page(wn.TaskRow, "/tasks", cursor=c, **choices))

    def done(self, task_id: str, evidence: str = "") -> wn.TaskState:
        body = wn.TaskDone(evidence=evidence)
        return self._http.model(wn.TaskState, "POST", f"/tasks/{task_id}/done", body=body)

    def refuse(self, task_id: str, reason: str) -> wn.TaskState:
        body = wn.TaskRefused(reason=reason)
        return self._http.model(wn.TaskState, "POST", f"/tasks/{task_id}/refuse", body=body)


class Audit(Noun):
    def page(self, **choices: Any) -> Page[wn.AuditEvent]:
        return self._http.page(wn.AuditEvent, "/audit", **choices)

    def export(self) -> Iterator[str]:
        """The sealed log, line by line, the signed head last."""
        return self._http.stream_lines("/audit/export")


class Operators(Noun):
    def all(self) -> list[wn.OperatorRow]:
        return list(every(lambda c: self._http.page(wn.OperatorRow, "/operators", cursor=c)))

    def add(self, operator: wn.NewOperator) -> wn.OperatorLink:
        return self._http.model(wn.OperatorLink, "POST", "/operators", body=operator)

    def change(self, operator_id: str, change: wn.OperatorChange) -> wn.OperatorRow:
        path = f"/operators/{operator_id}"
        return self._http.model(wn.OperatorRow, "PATCH", path, body=change)

    def link(self, login: str) -> wn.OperatorLink:
        return self._http.model(wn.OperatorLink, "POST", f"/operators/{login}/link")


class Tokens(Noun):
    def all(self) -> list[wn.TokenRow]:
        return self._http.models(wn.TokenRow, "/tokens")

    def add(self, token: wn.NewToken) -> wn.NewTokenReply:
        return self._http.model(wn.NewTokenReply, "POST", "/tokens", body=token)

    def revoke(self, token_id: str) -> None:
        self._http.send("DELETE", f"/tokens/{token_id}")


class Clock(Noun):
    def show(self) -> wn.ClockView:
        return self._http.model(wn.ClockView, "GET", "/clock")

    def advance(self, to: str) -> Iterator[wn.Advanced]:
        """In a demo: each stop on the way to a moment; leaving off between two is safe."""
        target = to
        while True:
            stop = self._http.model(
                wn.Advanced, "POST", "/clock/advance", body=wn.Advance(to=target)
            )
            yield stop
            if stop.reached:
                return
            target = stop.target.isoformat()


class Client:
    """The service at ``url``, with an API token. Use as a context manager, or close it."""

    def __init__(self, url: str, token: str = "", *, timeout: float = 120.0) -> None:
        self._http = Http(url, token, timeout=timeout)
        self.people = People(self._http)
        self.decisions = Decisions(self._http)
        self.plans = Plans(self._http)
        self.dockets = Dockets(self._http)
        self.applications = Applications(self._http)
        self.accounts = Accounts(self._http)
        self.seats = Seats(self._http)
        self.rules = Rules(self._http)
        self.roles = Roles(self._http)
        self.names = Names(self._http)
        self.approvals = Approvals(self._http)
        self.mails = Mails(self._http)
        self.credentials = Credentials(self._http)
        self.findings = Findings(self._http)
        self.shared = Shared(self._http)
        self.tasks = Tasks(self._http)
        self.audit = Audit(self._http)
        self.operators = Operators(self._http)
        self.tokens = Tokens(self._http)
        self.clock = Clock(self._http)

    def day(self) -> wn.DaySheet:
        """The day sheet."""
        return self._http.model(wn.DaySheet, "GET", "/day")

    def last_call(self, *, application: str = "", days: int = 3650) -> list[wn.LastCall]:
        """What can still be brought back, what is lost first at the top."""
        params = {"application": application, "days": days}
        return list(
            every(
                lambda c: self._http.page(wn.LastCall, "/last-call", cursor=c, limit=200, **params)
            )
        )

    def handovers(self, *, docket: str = "", who: str = "") -> Iterator[wn.HandoverRow]:
        """Every thing that was handed over, by a docket, of or to a person; the newest first."""
        params = {"docket": docket, "who": who}
        return every(
            lambda c: self._http.page(wn.HandoverRow, "/handovers", cursor=c, limit=200, **params)
        )

    def calendar(
        self,
        begin: datetime | None = None,
        until: datetime | None = None,
        kinds: Sequence[str] = (),
    ) -> Iterator[wn.CalendarEntry]:
        """Dated dockets and obligations from now, or ``begin``, for a year, or until ``until``."""
        params: dict[str, Any] = {"kind": list(kinds)}
        params |= {k: v.isoformat() for k, v in (("begin", begin), ("until", until)) if v}
        return every(
            lambda c: self._http.page(wn.CalendarEntry, "/calendar", cursor=c, limit=200, **params)
        )

    def calendar_feed(self) -> str:
        """The next year as iCalendar (RFC 5545)."""
        return str(self._http.send("GET", "/calendar.ics").text)

    def hold(self, application_id: str, reason: str, ends: str = "") -> wn.DecisionView:
        """Nothing of an application is deleted or purged while this lasts."""
        body = wn.HoldRequest(reason=reason, ends=ends)
        path = f"/applications/{application_id}/hold"
        return self._http.model(wn.DecisionView, "POST", path, body=body)

    def cut_off_sheet(self, who: Sequence[str]) -> str:
        """A page to print beforehand: what to close by hand while Yugum is down."""
        return str(self._http.send("GET", "/cut-off-sheet", params={"who": list(who)}).text)

    def status(self, *, check: bool = False) -> wn.Status:
        """Health; with ``check`` every application is asked now."""
        return self._http.model(wn.Status, "GET", "/status", params={"check": check})

    def stop(self, reason: str) -> wn.StopView:
        """Stop everything but cut-offs."""
        return self._http.model(
            wn.StopView, "POST", "/status/stop", body=wn.StopRequest(reason=reason)
        )

    def go_on(self) -> wn.StopView:
        """Lift the stop."""
        return self._http.model(wn.StopView, "DELETE", "/status/stop")

    def stopped(self) -> wn.StopView:
        return self._http.model(wn.StopView, "GET", "/status/stop")

    def session(self) -> wn.SessionView:
        """Who the token stands for."""
        return self._http.model(wn.SessionView, "GET", "/session")

    def close(self) -> None:
        self._http.close()

    def __enter__(self) -> Client:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()
