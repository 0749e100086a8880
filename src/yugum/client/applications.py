"""Applications, their accounts and seats."""

from __future__ import annotations

from collections.abc import Iterator

from yugum.client.http import Noun, every
from yugum.core.accounts import AccountKind
from yugum.core.applications import Trust
from yugum.core.readings import ReadingMode
from yugum.wire import accounts as wac
from yugum.wire import applications as wap
from yugum.wire import credentials as wcr
from yugum.wire.common import LinkRequest, Page


class Applications(Noun):
    def all(self) -> list[wap.ApplicationRow]:
        return self._http.models(wap.ApplicationRow, "/applications")

    def kinds(self) -> list[str]:
        """The kinds of application for which a connector is installed."""
        return [str(kind) for kind in self._http.send("GET", "/applications/kinds").json()]

    def connect(self, application: wap.ConnectApplication) -> wap.ApplicationRow:
        """Connect an application, or connect a known one again; what is not set stays."""
        body = application.model_dump(mode="json", exclude_unset=True)
        return self._http.model(wap.ApplicationRow, "POST", "/applications", body=body)

    def read(
        self, application_id: str, *, mode: ReadingMode = ReadingMode.FULL, believe: bool = False
    ) -> wap.ReadingResult:
        path = f"/applications/{application_id}/read"
        params = {"mode": mode, "believe": believe}
        return self._http.model(wap.ReadingResult, "POST", path, params=params)

    def readings(self, application_id: str) -> Page[wap.ReadingRow]:
        return self._http.page(wap.ReadingRow, f"/applications/{application_id}/readings")

    def unreadable(self, application_id: str) -> list[wap.ReadingProblem]:
        """Records that could not be understood, each with its reason."""
        path = f"/applications/{application_id}/unreadable"
        return list(every(lambda c: self._http.page(wap.ReadingProblem, path, cursor=c)))

    def retry(self, application_id: str, external_id: str) -> wap.ReadingResult:
        path = f"/applications/{application_id}/unreadable/{external_id}/retry"
        return self._http.model(wap.ReadingResult, "POST", path)

    def gone(self) -> list[wap.DisconnectedRow]:
        """Those that are not connected any more."""
        return self._http.models(wap.DisconnectedRow, "/applications/disconnected")

    def archived(self, application_id: str) -> Iterator[wap.ArchivedRow]:
        """The accounts kept of one of those."""
        path = f"/applications/{application_id}/archived"
        return every(lambda c: self._http.page(wap.ArchivedRow, path, cursor=c, limit=200))

    def plan_disconnection(
        self, application_id: str, *, erase: bool = False
    ) -> wap.DisconnectionView:
        """What would follow from disconnecting it."""
        path = f"/applications/{application_id}/disconnection"
        return self._http.model(wap.DisconnectionView, "GET", path, params={"erase": erase})

    def disconnect(
        self, plan: wap.DisconnectionView, reason: str, *, typed: str = ""
    ) -> wap.DisconnectionView:
        """Disconnect it as was shown; ``typed`` is its id where what is kept is erased."""
        path = f"/applications/{plan.application_id}/disconnection"
        said = wap.Disconnect(digest=plan.digest, reason=reason, erase=plan.erase, typed=typed)
        body = said.model_dump(mode="json")
        return self._http.model(wap.DisconnectionView, "POST", path, body=body)

    def names(self, application_id: str, kind: str, q: str = "") -> list[str]:
        """What is known of a kind there (entitlement, seat, setting), each name once."""
        path = f"/applications/{application_id}/names"
        reply = self._http.send("GET", path, params={"kind": kind, "q": q, "limit": 200})
        return list(reply.json())

    def trust(self, application_id: str, trust: Trust) -> wap.ApplicationRow:
        path = f"/applications/{application_id}/trust"
        body = wap.TrustChange(trust=trust)
        return self._http.model(wap.ApplicationRow, "PATCH", path, body=body)

    def change_profile(
        self, application_id: str, profile: wap.ProfileDocument
    ) -> wap.ApplicationRow:
        """Change what is set in ``profile``; the rest stays."""
        path = f"/applications/{application_id}/profile"
        body = profile.model_dump(mode="json", exclude_unset=True)
        return self._http.model(wap.ApplicationRow, "PATCH", path, body=body)

    def upload(self, application_id: str, text: str) -> wap.Uploaded:
        """Take a CSV file as what a manual application holds."""
        path = f"/applications/{application_id}/accounts-file"
        return self._http.model(
            wap.Uploaded, "POST", path, content=text.encode(), headers={"Content-Type": "text/csv"}
        )


class Accounts(Noun):
    def page(self, **choices: object) -> Page[wac.AccountRow]:
        return self._http.page(wac.AccountRow, "/accounts", **choices)

    def all(self, **choices: object) -> Iterator[wac.AccountRow]:
        return every(lambda cursor: self.page(cursor=cursor, limit=200, **choices))

    def proposals(self) -> list[wac.Proposal]:
        """Links that somebody should look at, the most likely first."""
        return list(every(lambda c: self._http.page(wac.Proposal, "/accounts/proposals", cursor=c)))

    def link(self, account_id: str, who: str, kind: AccountKind | None = None) -> wac.Linked:
        """Say who is behind an account; ``who`` empty: nobody."""
        body = wac.LinkAccount(who=who, kind=kind)
        return self._http.model(wac.Linked, "PUT", f"/accounts/{account_id}/person", body=body)

    def open_credential(self, token: str) -> wcr.OpenedCredential:
        """What is behind a one-time link's token; works once."""
        body = LinkRequest(token=token)
        return self._http.model(wcr.OpenedCredential, "POST", "/credentials/open", body=body)
