"""The client's part for groups themselves."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from yugum.client.http import Noun, every
from yugum.core.verbs import Verb
from yugum.wire import groups as wg
from yugum.wire import plans as wl


class Groups(Noun):
    def all(
        self, *, application: str = "", owner: str = "", q: str = "", retired: bool = False
    ) -> Iterator[wg.GroupRow]:
        said = {"application": application, "owner": owner, "q": q, "retired": retired}
        return every(lambda c: self._http.page(wg.GroupRow, "/groups", cursor=c, limit=200, **said))

    def show(self, group_id: str) -> wg.GroupRow:
        return wg.GroupRow.model_validate(self._http.send("GET", f"/groups/{group_id}").json())


def group_plan(
    application: str, name: str, values: Mapping[str, str], *, new: bool = False
) -> wl.NewPlan:
    """What is asked of a group by name: a ``new`` one is made, else the one there is is changed."""
    return wl.NewPlan(
        verb=Verb.GROUP, application=application, group=name, values=dict(values), new=new
    )
