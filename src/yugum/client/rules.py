"""The client's nouns around rules: rules, roles, names, approvals, mail."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from yugum.client.http import Noun, every
from yugum.wire import approvals as wa
from yugum.wire import credentials as wcr
from yugum.wire import mails as wma
from yugum.wire import trials as wt
from yugum.wire.common import LinkRequest


class Rules(Noun):
    def show(self) -> wt.RulesView:
        return self._http.model(wt.RulesView, "GET", "/rules")

    def version(self, number: int) -> wt.RulesView:
        return self._http.model(wt.RulesView, "GET", f"/rules/versions/{number}")

    def versions(self) -> list[wt.RulesVersion]:
        return list(every(lambda c: self._http.page(wt.RulesVersion, "/rules/versions", cursor=c)))

    def schema(self) -> dict[str, Any]:
        """The JSON Schema of a rules file."""
        found: dict[str, Any] = self._http.send("GET", "/rules/schema").json()
        return found

    def check(self, text: str) -> list[wt.RuleProblem]:
        """Every mistake in a rules file."""
        return self._http.many(wt.RuleProblem, "POST", "/rules/check", body=wt.RulesText(text=text))

    def try_out(self, text: str, who: Sequence[str] = ()) -> wt.TrialView:
        """Who would gain and lose what, among some people if named; nothing is changed."""
        return self._http.model(
            wt.TrialView, "POST", "/rules/try", body=wt.TryRules(text=text, who=list(who))
        )

    def adopt(
        self,
        text: str,
        note: str = "",
        *,
        after: int | None = None,
        take_away: int | None = None,
        carry_out: bool = False,
    ) -> wt.AdoptedRules:
        body = wt.AdoptRules(
            text=text, note=note, after=after, take_away=take_away, carry_out=carry_out
        )
        return self._http.model(wt.AdoptedRules, "POST", "/rules", body=body)


class Roles(Noun):
    def all(self) -> list[wt.RoleView]:
        return self._http.models(wt.RoleView, "/roles")

    def compare(self, left: str, right: str) -> wt.Comparison:
        params = {"left": left, "right": right}
        return self._http.model(wt.Comparison, "GET", "/roles/compare", params=params)


class Names(Noun):
    def suggest(self, **fields: str) -> wt.SuggestedNames:
        """Names for somebody new; fields are given, family, number, department, site."""
        body = wt.SuggestNames.model_validate(fields)
        return self._http.model(wt.SuggestedNames, "POST", "/names/suggest", body=body)

    def compare(self, left: str, right: str) -> wt.Comparison:
        params = {"left": left, "right": right}
        return self._http.model(wt.Comparison, "GET", "/names/compare", params=params)

    def explain(self, who: str) -> wt.Explanation:
        return self._http.model(wt.Explanation, "GET", "/names/explain", params={"who": who})


class Approvals(Noun):
    def all(self, state: str = "open", docket: str = "") -> list[wa.ApprovalRow]:
        params = {"state": state, "docket": docket}
        return list(
            every(lambda c: self._http.page(wa.ApprovalRow, "/approvals", cursor=c, **params))
        )

    def answer(self, approval_id: str, *, agrees: bool, note: str = "") -> wa.Answered:
        body = wa.AnswerApproval(agrees=agrees, note=note)
        path = f"/approvals/{approval_id}/answer"
        return self._http.model(wa.Answered, "POST", path, body=body)

    def delegate(self, approval_id: str, to: str) -> wa.Answered:
        path = f"/approvals/{approval_id}/delegate"
        return self._http.model(wa.Answered, "POST", path, body=wa.Delegate(to=to))

    def by_link(self, token: str, *, agrees: bool, note: str = "") -> wa.Answered:
        """Answer by the token of a link in a mail."""
        body = wa.AnswerByLink(token=token, agrees=agrees, note=note)
        return self._http.model(wa.Answered, "POST", "/approval-links/answer", body=body)


class Mails(Noun):
    def all(self, who: str = "", *, kind: str = "", unsent: bool = False) -> list[wma.MailRow]:
        """What was told to whom, the newest first; of one kind, or what is not sent yet."""
        params: dict[str, Any] = {"who": who, "kind": kind, "unsent": unsent, "limit": 200}
        return list(every(lambda c: self._http.page(wma.MailRow, "/mails", cursor=c, **params)))


WAVE = 25
"""People whose credentials are asked for at once."""


class Credentials(Noun):
    def of(self, who: str) -> list[wcr.CredentialState]:
        return self._http.models(wcr.CredentialState, "/credentials", who=who)

    def renew(self, account_id: str, reason: str = "") -> wcr.ChosenReply:
        """A new initial credential, told of as the first was."""
        path = f"/accounts/{account_id}/credential"
        return self._http.model(
            wcr.ChosenReply, "POST", path, body=wcr.NewCredential(reason=reason)
        )

    def rules_of(self, account_id: str) -> wcr.CredentialRules:
        """What a password of an account must be like."""
        return self._http.model(wcr.CredentialRules, "GET", f"/accounts/{account_id}/credential")

    def type(
        self, account_id: str, password: str, *, reason: str = "", reference: str = ""
    ) -> wcr.ChosenReply:
        """A credential typed for an account's owner, who is told that it was."""
        body = wcr.TypedCredential(password=password, reason=reason, reference=reference)
        path = f"/accounts/{account_id}/credential"
        return self._http.model(wcr.ChosenReply, "PUT", path, body=body)

    def issue(
        self,
        who: Sequence[str],
        applications: Sequence[str] = (),
        *,
        reason: str = "",
        reference: str = "",
        look: bool = False,
    ) -> Iterator[list[wcr.IssuedRow]]:
        """New credentials for many, a wave of people after the other; with ``look`` nothing happens."""
        for begin in range(0, len(who), WAVE):
            body = wcr.NewCredentials(
                who=[*who[begin : begin + WAVE]],
                applications=[*applications],
                reason=reason,
                reference=reference,
                look=look,
            )
            yield self._http.many(wcr.IssuedRow, "POST", "/credentials", body=body)

    def slips(self, who: Sequence[str], applications: Sequence[str] = ()) -> bytes:
        """The credentials nobody has opened as a page of HTML to print, at most a hundred people's."""
        body = wcr.WhoseCredentials(who=[*who], applications=[*applications])
        return self._http.send("POST", "/credentials/slips", body=body).content

    def hand_over(
        self, account_id: str, check: str, *, to: str = "", look: bool = False
    ) -> wcr.CredentialLink:
        """A link for the help desk, or a mail ``to`` an address with it, which with ``look`` is only shown.

        ``check`` is how the receiver was identified.
        """
        body = wcr.HandOver(check=check, to=to, look=look)
        path = f"/accounts/{account_id}/hand-over"
        return self._http.model(wcr.CredentialLink, "POST", path, body=body)

    def rules(self, token: str) -> wcr.CredentialRules:
        return self._http.model(
            wcr.CredentialRules, "POST", "/credentials/rules", body=LinkRequest(token=token)
        )

    def choose(self, token: str, password: str) -> wcr.ChosenReply:
        body = wcr.ChosenCredential(token=token, password=password)
        return self._http.model(wcr.ChosenReply, "POST", "/credentials/choose", body=body)
