"""Plans, and dockets followed to their end."""

from __future__ import annotations

import time
from collections.abc import Iterator

from yugum.client.http import Noun, every
from yugum.core.dockets import ENDED, FINISHED, DocketState, Settlement
from yugum.errors import Conflict
from yugum.wire import dockets as wd
from yugum.wire import plans as wl
from yugum.wire.common import Page


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
        self,
        batch_id: str,
        *,
        reference: str = "",
        reason: str = "",
        typed: str = "",
        override: str = "",
    ) -> list[wl.ConfirmedDocket]:
        """Carry out at once what was prepared in confidence."""
        body = wl.Fire(reference=reference, reason=reason, typed=typed, override=override)
        path = f"/plans/{batch_id}/fire"
        return self._http.model(wl.Confirmed, "POST", path, body=body).dockets


class Dockets(Noun):
    def page(self, **choices: object) -> Page[wd.DocketRow]:
        """A page; choices are ``state``, ``verb``, ``who``, ``batch``, ``stuck``, ``cursor``."""
        return self._http.page(wd.DocketRow, "/dockets", **choices)

    def all(self, **choices: object) -> Iterator[wd.DocketRow]:
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

    def end(self, name: str, reason: str) -> wd.DocketView:
        """End a running docket where it is stuck; what it leaves out stays a difference."""
        body = wd.EndDocket(reason=reason)
        return self._http.model(wd.DocketView, "POST", f"/dockets/{name}/end", body=body)

    def batch(self, batch_id: str) -> wd.BatchTimes:
        """How the dockets stand that were confirmed together."""
        return self._http.model(wd.BatchTimes, "GET", f"/dockets/batches/{batch_id}")

    def settle(self, step_id: str, how: Settlement, note: str = "") -> wd.DocketView:
        body = wd.SettleStep(how=how, note=note)
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


RESTING = ENDED | {DocketState.AWAITING}
"""States in which nothing more happens by itself; one that awaits needs somebody's agreement."""


def at_rest(view: wd.DocketView) -> bool:
    """Whether nothing more happens soon by itself.

    It has ended, has not begun, or each account's first open step is stuck.
    """
    if view.state in RESTING:
        return True
    if view.state is DocketState.SCHEDULED:
        return not view.steps and not view.begins_now
    heads: dict[str, wd.StepView] = {}
    for step in view.steps:
        if step.state not in FINISHED:
            heads.setdefault(step.account_id, step)
    return bool(heads) and all(s.stuck for s in heads.values())
