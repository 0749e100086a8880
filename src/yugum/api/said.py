"""What the big lists are asked with: their declared filters and orders, each answered from an index."""

from collections.abc import Awaitable, Callable
from dataclasses import dataclass, fields
from inspect import signature
from typing import Annotated, Any, TypeVar

from fastapi import Depends, Query

from yugum.api.parameters import At, FilterText, OneLine, OneOf, Who, Whole
from yugum.core.accounts import AccountKind, AccountState
from yugum.core.dockets import DocketState
from yugum.core.findings import FindingKind
from yugum.core.handover import Settled
from yugum.core.invitations import ToDo
from yugum.core.lists import AccountSort, DocketSort, Order, PersonSort
from yugum.core.mails import MailKind
from yugum.core.operators import OperatorRole
from yugum.core.people import PersonState
from yugum.core.verbs import Verb
from yugum.ports.accounts import ChosenAccounts
from yugum.ports.dockets import ChosenDockets
from yugum.ports.operators import ChosenOperators
from yugum.ports.people import ChosenPeople
from yugum.wire.common import BlankIsNone

C = TypeVar("C", ChosenPeople, ChosenAccounts, ChosenDockets, ChosenOperators)


def _chosen(said: object, kind: type[C], **more: str) -> C:
    """A choice of what was said under the same names, and ``more``."""
    names = {f.name for f in fields(kind)} - more.keys()
    values: dict[str, Any] = {n: getattr(said, n) for n in names if hasattr(said, n)}
    return kind(**{**values, **more})


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
        return _chosen(self, ChosenPeople, query=self.q)


@dataclass(slots=True)
class AccountsSaid:
    state: Annotated[AccountState | None, BlankIsNone] = None
    kind: Annotated[AccountKind | None, BlankIsNone] = None
    to_do: Annotated[
        ToDo | None,
        Query(description="Whose owner has yet to accept an invitation, or has duties left."),
        BlankIsNone,
    ] = None
    who: Who = ""
    q: Annotated[
        str, Query(max_length=200, description="What the login begins with, in any case."), *OneLine
    ] = ""
    sort: AccountSort = AccountSort.APPLICATION
    order: Order = Order.ASCENDING

    def chosen(self, application: str) -> ChosenAccounts:
        return _chosen(self, ChosenAccounts, query=self.q, application=application)


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
        return _chosen(self, ChosenDockets, batch_id=self.batch)


@dataclass(slots=True)
class FindingsSaid:
    kind: Annotated[FindingKind | None, BlankIsNone] = None
    accepted: Annotated[
        bool, Query(description="Those that somebody has accepted, instead of the others.")
    ] = False
    who: Who = ""


@dataclass(slots=True)
class LastCallSaid:
    days: Annotated[int, Query(ge=1, le=3650, description="Lost within so many days.")] = 3650


@dataclass(slots=True)
class MailsSaid:
    who: Who = ""
    kind: Annotated[MailKind | None, BlankIsNone] = None
    unsent: bool = False


@dataclass(slots=True)
class HandoverSaid:
    settled: Annotated[
        Settled | None,
        Query(description="Only what stands so; pages have fewer rows then."),
        BlankIsNone,
    ] = None


@dataclass(slots=True)
class JoinersSaid:
    before: Annotated[int, Query(ge=0, le=366, description="Days back from today.")] = 7
    ahead: Annotated[int, Query(ge=0, le=366, description="Days on from today.")] = 14
    ready: Annotated[
        bool | None,
        Query(description="Only who is, or is not; pages have fewer rows then."),
        BlankIsNone,
    ] = None


@dataclass(slots=True)
class GroupsSaid:
    owner: Who = ""
    q: Annotated[str, Query(max_length=200, description="Part of the name."), *OneLine] = ""
    retired: Annotated[bool, Query(description="Only those that can still come back.")] = False


Part = Annotated[str, Query(max_length=200, description="Part of a login or name."), *OneLine]
Working = Annotated[
    bool | None, Query(description="Only those that can sign in, or cannot."), BlankIsNone
]
AsRole = Annotated[OperatorRole | None, BlankIsNone]


@dataclass(slots=True)
class OperatorsSaid:
    q: Part = ""
    role: AsRole = None
    active: Working = None

    def chosen(self) -> ChosenOperators:
        return _chosen(self, ChosenOperators, query=self.q)


@dataclass(slots=True)
class IntegrationsSaid:
    q: Part = ""
    role: AsRole = None
    active: Working = None
    owner: Annotated[
        str, Query(max_length=60, description="The login of who answers for it."), *OneLine
    ] = ""

    def chosen(self) -> ChosenOperators:
        return _chosen(self, ChosenOperators, query=self.q)


@dataclass(slots=True)
class TokensSaid:
    of: Annotated[str, Query(max_length=60, description="The login of whose it is."), *OneLine] = ""


@dataclass(slots=True)
class SharedSaid:
    due: Annotated[bool, Query(description="Only those that a leaver knew.")] = False
    q: Annotated[str, Query(max_length=200, description="Part of the name or place."), *OneLine] = (
        ""
    )


@dataclass(slots=True)
class AuditSaid:
    who: Who = ""
    docket: OneOf = ""
    action: OneOf = ""


S = TypeVar(
    "S",
    PeopleSaid,
    AccountsSaid,
    DocketsSaid,
    FindingsSaid,
    LastCallSaid,
    MailsSaid,
    HandoverSaid,
    JoinersSaid,
    GroupsSaid,
    OperatorsSaid,
    IntegrationsSaid,
    TokensSaid,
    SharedSaid,
    AuditSaid,
)


def _as_said(kind: type[S]) -> Callable[..., Awaitable[S]]:
    """Reads one of these where it stands; the class itself would be called in a thread of its own."""

    async def read(**said: Any) -> S:  # noqa: ANN401 - of as many types as there are parameters
        return kind(**said)

    read.__signature__ = signature(kind)  # type: ignore[attr-defined]
    return read


WhichPeople = Annotated[PeopleSaid, Depends(_as_said(PeopleSaid))]
WhichAccounts = Annotated[AccountsSaid, Depends(_as_said(AccountsSaid))]
WhichDockets = Annotated[DocketsSaid, Depends(_as_said(DocketsSaid))]
WhichFindings = Annotated[FindingsSaid, Depends(_as_said(FindingsSaid))]
WhichWindows = Annotated[LastCallSaid, Depends(_as_said(LastCallSaid))]
WhichHandovers = Annotated[HandoverSaid, Depends(_as_said(HandoverSaid))]
WhichMails = Annotated[MailsSaid, Depends(_as_said(MailsSaid))]
WhichJoiners = Annotated[JoinersSaid, Depends(_as_said(JoinersSaid))]
WhichGroups = Annotated[GroupsSaid, Depends(_as_said(GroupsSaid))]
WhichOperators = Annotated[OperatorsSaid, Depends(_as_said(OperatorsSaid))]
WhichIntegrations = Annotated[IntegrationsSaid, Depends(_as_said(IntegrationsSaid))]
WhichTokens = Annotated[TokensSaid, Depends(_as_said(TokensSaid))]
WhichShared = Annotated[SharedSaid, Depends(_as_said(SharedSaid))]
WhichEvents = Annotated[AuditSaid, Depends(_as_said(AuditSaid))]
