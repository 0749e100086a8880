"""The client's part for what people own."""

from __future__ import annotations

from collections.abc import Iterator

from yugum.client.http import Noun, every
from yugum.wire import handover as wh
from yugum.wire import references as wr
from yugum.wire import takeovers as wt


class Handover(Noun):
    def all(self, *, application: str = "", settled: str = "") -> Iterator[wh.BoardRow]:
        """What everybody who leaves or has left still owns, and what becomes of it."""
        params = {"application": application, "settled": settled or None}
        return every(
            lambda c: self._http.page(wh.BoardRow, "/handover", cursor=c, limit=200, **params)
        )

    def show(self, who: str) -> wh.HandoverView:
        """What somebody owns, looked at now, and what becomes of it when they leave."""
        return self._http.model(wh.HandoverView, "GET", f"/people/{who}/handover")

    def choose(self, who: str, body: wh.ChooseHandover) -> wh.HandoverView:
        """Settle what becomes of some of what somebody owns."""
        return self._http.model(wh.HandoverView, "PUT", f"/people/{who}/handover", body=body)

    def references(self, who: str) -> wr.ReferencesView:
        """Where somebody is named without owning it, looked for now, and who is to stand there."""
        return self._http.model(wr.ReferencesView, "GET", f"/people/{who}/references")

    def redirect(self, who: str) -> wr.ReferencesView:
        """Put others where somebody who has left is still named."""
        return self._http.model(wr.ReferencesView, "POST", f"/people/{who}/references")

    def replace_keys(self, who: str, body: wr.ReplaceKeys) -> wr.KeysReplaced:
        """A new key for each program that runs with one of somebody who is to leave."""
        path = f"/people/{who}/references/keys"
        return self._http.model(wr.KeysReplaced, "POST", path, body=body)

    def tell_key(self, who: str, key_id: str) -> None:
        """Have a new key that nobody has opened told of by another link."""
        self._http.send("POST", f"/people/{who}/references/keys/{key_id}")

    def given(self, who: str) -> wh.GivenView:
        """What somebody had and others were given, and who has it now."""
        return self._http.model(wh.GivenView, "GET", f"/people/{who}/given")

    def asked(self, *, answer: str = "") -> Iterator[wt.TakeoverRow]:
        """Who is asked, or was, whether they take over what somebody owns."""
        params = {"answer": answer or None}
        return every(
            lambda c: self._http.page(wt.TakeoverRow, "/takeovers", cursor=c, limit=200, **params)
        )

    def answer(self, takeover_id: str, body: wt.TakeoverReply) -> wt.TakeoverRow:
        """Note what somebody who was asked has said otherwise."""
        path = f"/takeovers/{takeover_id}/answer"
        return self._http.model(wt.TakeoverRow, "POST", path, body=body)
