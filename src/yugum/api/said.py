"""What the big lists are asked with: their declared filters and orders, each answered from an index."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import Query

from yugum.api.parameters import At, FilterText, OneLine, OneOf, Who, Whole
from yugum.core.accounts import AccountKind, AccountState
from yugum.core.dockets import DocketState
from yugum.core.lists import AccountSort, DocketSort, Order, PersonSort
from yugum.core.people import PersonState
from yugum.core.verbs import Verb
from yugum.ports.accounts import ChosenAccounts
from yugum.ports.dockets import ChosenDockets
from yugum.ports.people import ChosenPeople
from yugum.wire.common import BlankIsNone


@dataclass(slots=True)
class PeopleSaid:
    q: Annotated[
        str, Query(max_length=200, description="Any part of a name, login or number."), *OneLine
    ] = ""
    filter: FilterText = ""
    state: Annotated[PersonState | None, BlankIsNone] = None
    department: Whole = ""
    site: Whole = ""
    user_type: Whole = ""
    manager: Who = ""
    sort: PersonSort = PersonSort.NAME
    order: Order = Order.ASCENDING

    def chosen(self) -> ChosenPeople:
        return ChosenPeople(
            query=self.q,
            state=self.state,
            department=self.department,
            site=self.site,
            user_type=self.user_type,
            sort=self.sort,
            order=self.order,
        )


@dataclass(slots=True)
class AccountsSaid:
    state: Annotated[AccountState | None, BlankIsNone] = None
    kind: Annotated[AccountKind | None, BlankIsNone] = None
    who: Who = ""
    q: Annotated[
        str, Query(max_length=200, description="What the login begins with, in any case."), *OneLine
    ] = ""
    sort: AccountSort = AccountSort.APPLICATION
    order: Order = Order.ASCENDING

    def chosen(self, application: str) -> ChosenAccounts:
        return ChosenAccounts(
            application=application,
            state=self.state,
            kind=self.kind,
            query=self.q,
            sort=self.sort,
            order=self.order,
        )


@dataclass(slots=True)
class DocketsSaid:
    state: Annotated[DocketState | None, BlankIsNone] = None
    verb: Annotated[Verb | None, BlankIsNone] = None
    who: Who = ""
    batch: OneOf = ""
    author: Annotated[
        str, Query(max_length=200, description="The login of who asked for it."), *OneLine
    ] = ""
    reference: Whole = ""
    since: Annotated[At, Query(description="Due from then on.")] = None
    before: Annotated[At, Query(description="Due before then.")] = None
    stuck: bool = False
    sort: DocketSort = DocketSort.NUMBER
    order: Order = Order.DESCENDING

    def chosen(self) -> ChosenDockets:
        return ChosenDockets(
            state=self.state,
            verb=self.verb,
            batch_id=self.batch,
            author=self.author,
            reference=self.reference,
            since=self.since,
            before=self.before,
            stuck=self.stuck,
            sort=self.sort,
            order=self.order,
        )
