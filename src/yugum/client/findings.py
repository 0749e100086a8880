"""Findings, the standing difference, tasks and the audit log."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from yugum.client.http import Noun, days_said, every
from yugum.wire import audit as wau
from yugum.wire import findings as wfi
from yugum.wire import standing as ws
from yugum.wire import tasks as wta
from yugum.wire.common import Page


class Findings(Noun):
    def all(
        self, kind: str = "", *, accepted: bool = False, application: str = "", who: str = ""
    ) -> Iterator[wfi.Finding]:
        """Findings that nobody has accepted, or those ``accepted``; of an application, of a person, or all."""
        params: dict[str, object] = {"kind": kind, "accepted": accepted}
        params |= {"application": application, "who": who}
        return every(
            lambda c: self._http.page(wfi.Finding, "/findings", cursor=c, limit=200, **params)
        )

    def accept(self, body: wfi.AcceptFindings) -> wfi.AcceptedFindings:
        """Findings that may be so until a day; at most 500."""
        return self._http.model(wfi.AcceptedFindings, "POST", "/findings/accepted", body=body)

    def reopen(self, body: wfi.ReopenFindings) -> wfi.AcceptedFindings:
        """Accepted findings are told again."""
        return self._http.model(wfi.AcceptedFindings, "POST", "/findings/reopened", body=body)

    def counts(self) -> list[wfi.FindingCount]:
        return self._http.models(wfi.FindingCount, "/findings/counts")

    def days(self, begin: date | None = None, end: date | None = None) -> Iterator[wfi.FindingDay]:
        """How many there were, day by day; of the last ninety days if left out."""
        said = days_said(begin, end)
        return every(
            lambda c: self._http.page(wfi.FindingDay, "/findings/days", cursor=c, limit=200, **said)
        )

    def outside(self, application: str = "", state: str = "open") -> list[wfi.Deviation]:
        """Changes made outside Yugum."""
        params = {"application": application, "state": state}
        return list(
            every(lambda c: self._http.page(wfi.Deviation, "/findings/outside", cursor=c, **params))
        )

    def keep(self, deviation_id: str) -> wfi.Decided:
        return self._http.model(wfi.Decided, "POST", f"/findings/outside/{deviation_id}/keep")

    def revert(self, deviation_id: str) -> wfi.Decided:
        return self._http.model(wfi.Decided, "POST", f"/findings/outside/{deviation_id}/revert")


class Standing(Noun):
    def all(self, **choices: object) -> Iterator[ws.StandingRow]:
        """What is not as it should be, the oldest first.

        Choices are ``status``, ``kind``, ``side``, ``application``, ``who``, ``hours``.
        """
        return every(
            lambda c: self._http.page(ws.StandingRow, "/standing", cursor=c, limit=200, **choices)
        )

    def behind(self) -> ws.Behind:
        """How many people a change for many has still to reach."""
        return self._http.model(ws.Behind, "GET", "/standing/behind")

    def accept(self, accept: ws.Accept) -> ws.Accepted:
        return self._http.model(ws.Accepted, "POST", "/standing/accepted", body=accept)

    def reopen(self, acceptance_id: str) -> ws.Accepted:
        return self._http.model(ws.Accepted, "DELETE", f"/standing/accepted/{acceptance_id}")


class Tasks(Noun):
    def all(self, **choices: object) -> Iterator[wta.TaskRow]:
        """Tasks; choices are ``state`` and ``application``."""
        return every(lambda c: self._http.page(wta.TaskRow, "/tasks", cursor=c, **choices))

    def done(self, task_id: str, evidence: str = "") -> wta.ClosedTask:
        body = wta.TaskDone(evidence=evidence)
        return self._http.model(wta.ClosedTask, "POST", f"/tasks/{task_id}/done", body=body)

    def refuse(self, task_id: str, reason: str) -> wta.ClosedTask:
        body = wta.TaskRefused(reason=reason)
        return self._http.model(wta.ClosedTask, "POST", f"/tasks/{task_id}/refuse", body=body)


class Audit(Noun):
    def page(self, **choices: object) -> Page[wau.AuditEvent]:
        return self._http.page(wau.AuditEvent, "/audit", **choices)

    def export(self) -> Iterator[str]:
        """The sealed log, line by line, the signed head last."""
        return self._http.stream_lines("/audit/export")
