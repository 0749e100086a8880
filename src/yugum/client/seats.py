"""The client's part for seats: pools, what was bought for them, who holds one."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from yugum.client.http import Noun, every
from yugum.wire import forecasts as wf
from yugum.wire import plans as wl
from yugum.wire import reclaim as wr
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

    def holders(self, pool_id: str) -> list[wse.SeatHolder]:
        """Who waits, the first served first, and who holds one."""
        path = f"/seats/{pool_id}/holders"
        return list(every(lambda c: self._http.page(wse.SeatHolder, path, cursor=c, limit=200)))
