"""The client's part for seats: pools, what was bought for them, who holds one."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date

from yugum.client.http import Noun, every
from yugum.wire import forecasts as wf
from yugum.wire import plans as wl
from yugum.wire import questions as wq
from yugum.wire import reclaim as wr
from yugum.wire import reservations as wrs
from yugum.wire import seat_reports as wsr
from yugum.wire import seats as wse


class Seats(Noun):
    def all(self) -> list[wse.PoolRow]:
        return self._http.models(wse.PoolRow, "/seats")

    def cost(self) -> list[wse.SeatCost]:
        """What seats cost a month, by department and license."""
        return self._http.models(wse.SeatCost, "/seats/cost")

    def show(self, pool_id: str) -> wse.PoolView:
        return self._http.model(wse.PoolView, "GET", f"/seats/{pool_id}")

    def put(self, pool: wse.PutPool) -> wse.PoolView:
        """Add a pool, or change what is said of it; what is left out stays."""
        return self._http.model(wse.PoolView, "POST", "/seats", body=pool)

    def remove(self, pool_id: str) -> None:
        """A pool goes of which nobody holds a seat."""
        self._http.send("DELETE", f"/seats/{pool_id}")

    def buy(self, pool_id: str, bought: wse.PutPurchase) -> wse.PoolView:
        """Seats were bought, for a term if it ends."""
        path = f"/seats/{pool_id}/purchases"
        return self._http.model(wse.PoolView, "POST", path, body=bought)

    def change(self, pool_id: str, purchase_id: str, bought: wse.PutPurchase) -> wse.PoolView:
        """Correct a purchase, or let its term end on another day."""
        path = f"/seats/{pool_id}/purchases/{purchase_id}"
        return self._http.model(wse.PoolView, "PUT", path, body=bought)

    def unbuy(self, pool_id: str, purchase_id: str, *, below: bool = False) -> wse.PoolView:
        """A purchase was entered by mistake."""
        path = f"/seats/{pool_id}/purchases/{purchase_id}"
        params = {"below": below} if below else {}
        return self._http.model(wse.PoolView, "DELETE", path, params=params)

    def forecast(self, pool_id: str) -> wf.ForecastView:
        """Seats taken and bought for 13 weeks, then 24 months."""
        return self._http.model(wf.ForecastView, "GET", f"/seats/{pool_id}/forecast")

    def what_if(self, pool_id: str, what_if: wf.WhatIf) -> wf.ForecastView:
        """The forecast as it would be, if; nothing is changed."""
        path = f"/seats/{pool_id}/forecast"
        return self._http.model(wf.ForecastView, "POST", path, body=what_if)

    def reclaimable(self, pool_id: str, reason: str = "") -> Iterator[wr.SeatToReclaim]:
        """Seats that could come back, and why."""
        path = f"/seats/{pool_id}/reclaim"
        said = {"reason": reason} if reason else {}
        return every(lambda c: self._http.page(wr.SeatToReclaim, path, cursor=c, limit=200, **said))

    def reclaim(
        self, pool_id: str, people: Sequence[str], reason: str, ends: str = ""
    ) -> wl.BatchView:
        """Decide that some people (ids) have no seat of this pool; the plan that frees them is to be confirmed."""
        body = wr.TakeSeatsBack(people=list(people), reason=reason, ends=ends)
        return self._http.model(wl.BatchView, "POST", f"/seats/{pool_id}/reclaim", body=body)

    def reservations(self, pool_id: str) -> Iterator[wrs.ReservationRow]:
        """What is, was and will be set aside of a pool."""
        path = f"/seats/{pool_id}/reservations"
        return every(lambda c: self._http.page(wrs.ReservationRow, path, cursor=c, limit=200))

    def reserve(self, pool_id: str, new: wrs.NewReservation) -> wrs.ReservationRow:
        """Set seats aside, or pass one on; nobody else is given them."""
        path = f"/seats/{pool_id}/reservations"
        return self._http.model(wrs.ReservationRow, "POST", path, body=new)

    def withdraw(self, pool_id: str, reservation_id: str) -> None:
        """Seats are set aside no longer."""
        self._http.send("DELETE", f"/seats/{pool_id}/reservations/{reservation_id}")

    def ask_unused(self, pool_id: str) -> int:
        """Ask now whoever does not use a seat whether they still need it; how many."""
        path = f"/seats/{pool_id}/questions"
        return self._http.model(wq.Asked, "POST", path).people

    def asked(self, pool_id: str) -> Iterator[wq.QuestionRow]:
        """Who was asked whether they still need a seat, the latest first."""
        path = f"/seats/{pool_id}/questions"
        return every(lambda c: self._http.page(wq.QuestionRow, path, cursor=c, limit=200))

    def question(self, token: str) -> wq.SeatQuestion:
        """What the link of a mail asks."""
        body = wq.SeatLink(token=token)
        return self._http.model(wq.SeatQuestion, "POST", "/seat-links/open", body=body)

    def answer(self, token: str, *, keeps: bool) -> wq.SeatQuestion:
        """Whether a seat is still needed, by the link of a mail."""
        body = wq.SeatReply(token=token, keeps=keeps)
        return self._http.model(wq.SeatQuestion, "POST", "/seat-links/answer", body=body)

    def held(self, begin: date, end: date, pool_id: str = "") -> Iterator[wsr.SeatHeldRow]:
        """Who held a seat at any moment of a period."""
        said: dict[str, object] = {"begin": str(begin), "end": str(end), "pool_id": pool_id}
        return every(
            lambda c: self._http.page(wsr.SeatHeldRow, "/seats/held", cursor=c, limit=200, **said)
        )

    def costs(self, begin: str = "", end: str = "") -> Iterator[wsr.SeatCostRow]:
        """What seats cost from one month (2031-03) to another; the last twelve if left out."""
        return every(
            lambda c: self._http.page(
                wsr.SeatCostRow, "/seats/costs", begin=begin, end=end, cursor=c, limit=200
            )
        )

    def all_reclaimable(self, reason: str = "") -> Iterator[wsr.ReclaimableRow]:
        """Seats of all pools that could come back, and why."""
        more = {"reason": reason} if reason else {}
        return every(
            lambda c: self._http.page(
                wsr.ReclaimableRow, "/seats/reclaimable", cursor=c, limit=200, **more
            )
        )

    def over(self) -> Iterator[wsr.OverRow]:
        """Pools of which more seats are held than were bought."""
        return every(lambda c: self._http.page(wsr.OverRow, "/seats/over", cursor=c, limit=200))

    def starting(self, days: int = 10) -> wsr.StartingView:
        """Whether everybody who begins within so many working days has their seats."""
        return self._http.model(wsr.StartingView, "GET", "/seats/starting", params={"days": days})

    def holders(self, pool_id: str) -> list[wse.SeatHolder]:
        """Who waits, the first served first, and who holds one."""
        path = f"/seats/{pool_id}/holders"
        return list(every(lambda c: self._http.page(wse.SeatHolder, path, cursor=c, limit=200)))
