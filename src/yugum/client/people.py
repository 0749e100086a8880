"""People and decisions about them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from datetime import datetime
from typing import Any

from yugum.client.http import Noun, every
from yugum.core.entry import Doubted
from yugum.wire import decisions as wde
from yugum.wire import earlier as we
from yugum.wire import people as wp
from yugum.wire.common import Page


class People(Noun):
    def page(self, **choices: object) -> Page[wp.PersonRow]:
        """A page; choices are ``q``, ``filter``, ``state``, ``cursor`` and ``limit``."""
        return self._http.page(wp.PersonRow, "/people", **choices)

    def all(self, **choices: object) -> Iterator[wp.PersonRow]:
        return every(lambda cursor: self.page(cursor=cursor, limit=200, **choices))

    def values(self, field: str, q: str = "") -> list[str]:
        """What people have in a field, each value once."""
        reply = self._http.send(
            "GET", "/people/values", params={"field": field, "q": q, "limit": 200}
        )
        return list(reply.json())

    def show(self, who: str) -> wp.PersonView:
        return self._http.model(wp.PersonView, "GET", f"/people/{who}")

    def then(self, who: str, at: datetime) -> we.PersonThen:
        """Somebody as they were at a moment of the past."""
        params = {"at": at.isoformat()}
        return self._http.model(we.PersonThen, "GET", f"/people/{who}/then", params=params)

    def joiners(
        self, before: int = 7, ahead: int = 14, *, ready: bool | None = None
    ) -> Iterator[wp.JoinerRow]:
        """Who begins from ``before`` days ago to ``ahead`` days on, with what is missing."""
        days: dict[str, Any] = {"before": before, "ahead": ahead}
        if ready is not None:
            days["ready"] = ready
        return every(
            lambda cursor: self._http.page(
                wp.JoinerRow, "/people/joiners", cursor=cursor, limit=200, **days
            )
        )

    def would_get(self, **fields: str) -> list[wp.GivenLine]:
        """What somebody with these fields would have, and why."""
        body = wp.WouldGet.model_validate(fields)
        return self._http.many(wp.GivenLine, "POST", "/people/would-get", body=body)

    def same_as(self, who: str, like: str) -> wp.SameAs:
        """What it takes for ``who`` to be as ``like``, roles apart from exceptions."""
        return self._http.model(wp.SameAs, "GET", f"/people/{who}/same-as/{like}")

    def create(self, people: Sequence[wp.NewPerson]) -> list[wp.NamedPerson]:
        body = wp.NewPeople(people=list(people))
        return self._http.many(wp.NamedPerson, "POST", "/people", body=body)

    def change(
        self,
        who: str,
        changes: Mapping[str, str | None],
        *,
        reason: str = "",
        rev: int | None = None,
        right: Sequence[Doubted] = (),
    ) -> wp.NamedPerson:
        headers = {"If-Match": f'"{rev}"'} if rev is not None else {}
        body = wp.PersonChange(changes=dict(changes), reason=reason, right=[*right])
        path = f"/people/{who}"
        return self._http.model(wp.NamedPerson, "PATCH", path, body=body, headers=headers)

    def decline(self, who: str, reason: str) -> wp.DeclinedRow:
        """Take somebody out who has not begun; the refusal stays on record."""
        body = wp.DeclinePerson(reason=reason)
        return self._http.model(wp.DeclinedRow, "POST", f"/people/{who}/decline", body=body)

    def declined(self) -> Iterator[wp.DeclinedRow]:
        """Who was declined before they began, the latest first."""
        return every(
            lambda c: self._http.page(wp.DeclinedRow, "/people/declined", cursor=c, limit=200)
        )

    def birthday(self, who: str, day: str) -> list[wp.SameBirthday]:
        """Keep a digest of a day of birth ("" forgets it); returns who may be the same person."""
        body = wp.BirthdaySaid(birthday=day)
        return self._http.many(wp.SameBirthday, "PUT", f"/people/{who}/birthday", body=body)

    def merge(self, who: str, other: str, reason: str = "") -> wp.NamedPerson:
        """Make one person of two who are the same; ``other`` goes."""
        body = wp.MergePeople(other=other, reason=reason)
        return self._http.model(wp.NamedPerson, "POST", f"/people/{who}/merge", body=body)

    def decisions(self, who: str) -> list[wde.DecisionLine]:
        return list(
            every(
                lambda cursor: self._http.page(
                    wde.DecisionLine, f"/people/{who}/decisions", cursor=cursor
                )
            )
        )


class Decisions(Noun):
    def make(self, decision: wde.NewDecision) -> wde.DecisionView:
        return self._http.model(wde.DecisionView, "POST", "/decisions", body=decision)

    def holds(self) -> Iterator[wde.HoldRow]:
        """Holds on people and applications that are not over, the newest first."""
        return every(lambda c: self._http.page(wde.HoldRow, "/holds", cursor=c, limit=200))

    def precautions(self) -> Iterator[wde.PrecautionRow]:
        """Precautions in force, the first to be looked at again first."""
        return every(
            lambda c: self._http.page(wde.PrecautionRow, "/precautions", cursor=c, limit=200)
        )

    def end(self, decision_id: str) -> wde.DecisionView:
        return self._http.model(wde.DecisionView, "DELETE", f"/decisions/{decision_id}")
