"""``Client``: one attribute a noun, the same names as in the API and the CLI."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime
from types import TracebackType
from typing import Any

from pydantic import BaseModel

from yugum.client.allocations import Allocations
from yugum.client.applications import Accounts, Applications
from yugum.client.equipment import Equipment
from yugum.client.findings import Audit, Findings, Standing, Tasks
from yugum.client.groups import Groups
from yugum.client.guide import Guide
from yugum.client.handover import Handover
from yugum.client.http import Http, every
from yugum.client.operators import Clock, Integrations, Operators, Sessions, Tokens
from yugum.client.orders import Orders
from yugum.client.people import Decisions, People
from yugum.client.people_files import PeopleFiles
from yugum.client.reports import Reports
from yugum.client.rules import Approvals, Credentials, Mails, Names, Roles, Rules
from yugum.client.seats import Seats
from yugum.client.shared import Shared
from yugum.client.views import Views
from yugum.client.work import Dockets, Plans
from yugum.wire import applications as wap
from yugum.wire import day as wda
from yugum.wire import decisions as wde
from yugum.wire import operators as wop
from yugum.wire import status as wst
from yugum.wire.common import LinkRequest


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
        self.orders = Orders(self._http)
        self.allocations = Allocations(self._http)
        self.rules = Rules(self._http)
        self.roles = Roles(self._http)
        self.names = Names(self._http)
        self.handover = Handover(self._http)
        self.approvals = Approvals(self._http)
        self.mails = Mails(self._http)
        self.credentials = Credentials(self._http)
        self.findings = Findings(self._http)
        self.guide = Guide(self._http)
        self.reports = Reports(self._http)
        self.standing = Standing(self._http)
        self.shared = Shared(self._http)
        self.equipment = Equipment(self._http)
        self.people_files = PeopleFiles(self._http)
        self.groups = Groups(self._http)
        self.tasks = Tasks(self._http)
        self.audit = Audit(self._http)
        self.operators = Operators(self._http)
        self.integrations = Integrations(self._http)
        self.sessions = Sessions(self._http)
        self.tokens = Tokens(self._http)
        self.clock = Clock(self._http)
        self.views = Views(self._http)

    @classmethod
    def signed_in(cls, url: str, login: str, password: str) -> Client:
        """A client with a session instead of a token.

        Raises:
            Unauthenticated: login and password do not fit.
        """
        return cls._begun(url, "/session", wop.SignInRequest(login=login, password=password))

    @classmethod
    def by_link(cls, url: str, token: str) -> Client:
        """A client with the session of a one-time link, which is used up by it."""
        return cls._begun(url, "/session/link", LinkRequest(token=token))

    @classmethod
    def _begun(cls, url: str, path: str, body: BaseModel) -> Client:
        client = cls(url)
        try:
            client._http.sign_in(path, body)
        except BaseException:
            client.close()
            raise
        return client

    def day(self) -> wda.DaySheet:
        """The day sheet."""
        return self._http.model(wda.DaySheet, "GET", "/day")

    def last_call(self, *, application: str = "", days: int = 3650) -> list[wda.LastCall]:
        """What can still be brought back, what is lost first at the top."""
        params = {"application": application, "days": days}
        return list(
            every(
                lambda c: self._http.page(wda.LastCall, "/last-call", cursor=c, limit=200, **params)
            )
        )

    def handovers(self, *, docket: str = "", who: str = "") -> Iterator[wda.HandoverRow]:
        """Every thing that was handed over, by a docket, of or to a person; the newest first."""
        params = {"docket": docket, "who": who}
        return every(
            lambda c: self._http.page(wda.HandoverRow, "/handovers", cursor=c, limit=200, **params)
        )

    def calendar(
        self,
        begin: datetime | None = None,
        until: datetime | None = None,
        kinds: Sequence[str] = (),
    ) -> Iterator[wda.CalendarEntry]:
        """Dated dockets and obligations from now, or ``begin``, for a year, or until ``until``."""
        params: dict[str, Any] = {"kind": list(kinds)}
        params |= {k: v.isoformat() for k, v in (("begin", begin), ("until", until)) if v}
        return every(
            lambda c: self._http.page(wda.CalendarEntry, "/calendar", cursor=c, limit=200, **params)
        )

    def calendar_feed(self) -> str:
        """The next year as iCalendar (RFC 5545)."""
        return str(self._http.send("GET", "/calendar.ics").text)

    def hold(self, application_id: str, reason: str, ends: str = "") -> wde.DecisionView:
        """Nothing of an application is deleted or purged while this lasts."""
        body = wap.HoldRequest(reason=reason, ends=ends)
        path = f"/applications/{application_id}/hold"
        return self._http.model(wde.DecisionView, "POST", path, body=body)

    def cut_off_sheet(self, who: Sequence[str]) -> str:
        """A page to print beforehand: what to close by hand while Yugum is down."""
        return str(self._http.send("GET", "/cut-off-sheet", params={"who": list(who)}).text)

    def status(self, *, check: bool = False) -> wst.Status:
        """Health; with ``check`` every application is asked now."""
        return self._http.model(wst.Status, "GET", "/status", params={"check": check})

    def figures(self) -> wst.Figures:
        """The figures beside the console's pages."""
        return self._http.model(wst.Figures, "GET", "/status/counts")

    def stop(self, reason: str) -> wst.StopView:
        """Stop everything but cut-offs."""
        return self._http.model(
            wst.StopView, "POST", "/status/stop", body=wst.StopRequest(reason=reason)
        )

    def go_on(self) -> wst.StopView:
        """Lift the stop."""
        return self._http.model(wst.StopView, "DELETE", "/status/stop")

    def stopped(self) -> wst.StopView:
        return self._http.model(wst.StopView, "GET", "/status/stop")

    def session(self) -> wop.SessionView:
        """Who the token stands for."""
        return self._http.model(wop.SessionView, "GET", "/session")

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
