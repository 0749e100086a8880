"""The client's part for orders of more seats."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from yugum.client.http import Noun, every
from yugum.wire import orders as wo


class Orders(Noun):
    def all(self, *, pool_id: str = "", only_open: bool = False) -> Iterator[wo.OrderRow]:
        """Orders, the latest first."""
        said: dict[str, str | bool] = {}
        if pool_id:
            said["pool_id"] = pool_id
        if only_open:
            said["only_open"] = True
        return every(lambda c: self._http.page(wo.OrderRow, "/orders", cursor=c, limit=200, **said))

    def show(self, order: str) -> wo.OrderView:
        """One order, by its id or its name."""
        return self._http.model(wo.OrderView, "GET", f"/orders/{order}")

    def ask(self, new: wo.NewOrder) -> wo.OrderView:
        """Ask for more seats."""
        return self._http.model(wo.OrderView, "POST", "/orders", body=new)

    def request(self, order: str) -> str:
        """The request to whoever buys, as CSV."""
        return self._http.send("GET", f"/orders/{order}/request").text

    def decide(self, order: str, *, agreed: bool, answer: str = "") -> wo.OrderView:
        """Agree to an order, or refuse it."""
        body = wo.OrderDecision(agreed=agreed, answer=answer)
        return self._http.model(wo.OrderView, "POST", f"/orders/{order}/decision", body=body)

    def expect(self, order: str, on: date, reference: str = "") -> wo.OrderView:
        """An order is promised for a day."""
        body = wo.OrderPromise(on=on, reference=reference)
        return self._http.model(wo.OrderView, "POST", f"/orders/{order}/expected", body=body)

    def arrive(self, order: str, count: int | None = None, reference: str = "") -> wo.OrderView:
        """Seats have arrived, all that are to come where no count is said."""
        body = wo.OrderArrival(count=count, reference=reference)
        return self._http.model(wo.OrderView, "POST", f"/orders/{order}/arrived", body=body)

    def withdraw(self, order: str, answer: str) -> wo.OrderView:
        """What has not arrived will not."""
        body = wo.OrderWithdrawal(answer=answer)
        return self._http.model(wo.OrderView, "POST", f"/orders/{order}/withdrawn", body=body)
