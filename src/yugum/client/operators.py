"""Operators, API tokens and business time."""

from __future__ import annotations

from collections.abc import Iterator

from yugum.client.http import Noun, every
from yugum.wire import operators as wop
from yugum.wire import status as wst


class Operators(Noun):
    def all(self, **choices: object) -> list[wop.OperatorRow]:
        """By login: ``q`` (part of a login or name), ``role``, ``active``."""
        return list(
            every(lambda c: self._http.page(wop.OperatorRow, "/operators", cursor=c, **choices))
        )

    def add(self, operator: wop.NewOperator) -> wop.OperatorLink:
        return self._http.model(wop.OperatorLink, "POST", "/operators", body=operator)

    def change(self, operator_id: str, change: wop.OperatorChange) -> wop.OperatorRow:
        path = f"/operators/{operator_id}"
        return self._http.model(wop.OperatorRow, "PATCH", path, body=change)

    def link(self, login: str) -> wop.OperatorLink:
        return self._http.model(wop.OperatorLink, "POST", f"/operators/{login}/link")


class Integrations(Noun):
    def all(self, **choices: object) -> list[wop.IntegrationRow]:
        """By login: ``q``, ``role``, ``active``, ``owner`` (the login of who answers for it)."""
        path = "/integrations"
        return list(every(lambda c: self._http.page(wop.IntegrationRow, path, cursor=c, **choices)))

    def add(self, integration: wop.NewIntegration) -> wop.IntegrationRow:
        return self._http.model(wop.IntegrationRow, "POST", "/integrations", body=integration)

    def pass_on(self, login: str, owner: str) -> wop.IntegrationRow:
        """Another operator answers for it."""
        body = wop.IntegrationChange(owner=owner)
        return self._http.model(wop.IntegrationRow, "PATCH", f"/integrations/{login}", body=body)

    def end(self, login: str) -> None:
        self._http.send("DELETE", f"/integrations/{login}")


class Sessions(Noun):
    """One's own sessions; changing what lets one in needs a session (`Client.signed_in`)."""

    def set_password(self, password: str, current: str = "") -> None:
        body = wop.PasswordRequest(password=password, current=current)
        self._http.send("PUT", "/session/password", body=body)

    def end_others(self, password: str) -> None:
        self._http.send("POST", "/session/others/end", body=wop.ProofRequest(password=password))

    def sign_out(self) -> None:
        self._http.send("DELETE", "/session")


class Tokens(Noun):
    def all(self, of: str = "") -> list[wop.TokenRow]:
        """One's own, and those of integrations one answers for; ``of`` is one login of these."""
        return list(every(lambda c: self._http.page(wop.TokenRow, "/tokens", cursor=c, of=of)))

    def add(self, token: wop.NewToken) -> wop.NewTokenReply:
        return self._http.model(wop.NewTokenReply, "POST", "/tokens", body=token)

    def revoke(self, token_id: str) -> None:
        self._http.send("DELETE", f"/tokens/{token_id}")


class Clock(Noun):
    def show(self) -> wst.ClockView:
        return self._http.model(wst.ClockView, "GET", "/clock")

    def moment(self, said: str, who: str = "", *, day_begins: bool = False) -> wst.MomentView:
        """What words such as ``Fri 17:00`` mean for somebody."""
        params = {"said": said, "who": who, "day_begins": day_begins}
        return self._http.model(wst.MomentView, "GET", "/clock/moment", params=params)

    def advance(self, to: str) -> Iterator[wst.Advanced]:
        """In a demo: each stop on the way to a moment; leaving off between two is safe."""
        target = to
        while True:
            stop = self._http.model(
                wst.Advanced, "POST", "/clock/advance", body=wst.Advance(to=target)
            )
            yield stop
            if stop.reached:
                return
            target = stop.target.isoformat()
