"""One transaction over all stores."""

from __future__ import annotations

from contextlib import AbstractAsyncContextManager
from typing import Protocol

from yugum.ports.accounts import AccountStore
from yugum.ports.applications import ApplicationStore
from yugum.ports.approvals import ApprovalStore
from yugum.ports.audit import AuditStore
from yugum.ports.birthdays import BirthdayStore
from yugum.ports.clock import ClockStore
from yugum.ports.credentials import CredentialStore
from yugum.ports.decisions import DecisionStore
from yugum.ports.declined import DeclinedStore
from yugum.ports.deviations import DeviationStore
from yugum.ports.dockets import DocketStore
from yugum.ports.equipment import EquipmentStore
from yugum.ports.findings import FindingStore
from yugum.ports.forecasts import ForecastStore
from yugum.ports.gates import GateStore
from yugum.ports.grounds import GroundStore
from yugum.ports.groups import GroupStore
from yugum.ports.handover import HandoverStore
from yugum.ports.idempotency import IdempotencyStore
from yugum.ports.journal import JournalStore
from yugum.ports.leases import LeaseStore
from yugum.ports.mails import MailStore
from yugum.ports.matrix import MatrixStore
from yugum.ports.mentions import MentionStore
from yugum.ports.numbers import NumberStore
from yugum.ports.obligations import ObligationStore
from yugum.ports.operators import OperatorStore
from yugum.ports.orders import OrderStore
from yugum.ports.people import PeopleStore
from yugum.ports.people_files import PeopleFileStore
from yugum.ports.plans import PlanStore
from yugum.ports.population import PopulationStore
from yugum.ports.proposals import ProposalStore
from yugum.ports.questions import QuestionStore
from yugum.ports.readings import ReadingStore
from yugum.ports.reclaim import ReclaimStore
from yugum.ports.reports import ReportStore
from yugum.ports.reservations import ReservationStore
from yugum.ports.rules import RuleStore
from yugum.ports.saved import SavedViewStore
from yugum.ports.seats import SeatStore
from yugum.ports.shared import SharedStore
from yugum.ports.standing import StandingStore
from yugum.ports.takeovers import TakeoverStore
from yugum.ports.tasks import TaskStore
from yugum.ports.views import ViewStore


class UnitOfWork(Protocol):
    """One transaction over all stores: committed at the end, rolled back on an error."""

    people: PeopleStore
    birthdays: BirthdayStore
    mentions: MentionStore
    handover: HandoverStore
    takeovers: TakeoverStore
    declined: DeclinedStore
    accounts: AccountStore
    applications: ApplicationStore
    orders: OrderStore
    questions: QuestionStore
    matrix: MatrixStore
    forecasts: ForecastStore
    reclaim: ReclaimStore
    reports: ReportStore
    reservations: ReservationStore
    seats: SeatStore
    rules: RuleStore
    decisions: DecisionStore
    plans: PlanStore
    dockets: DocketStore
    deviations: DeviationStore
    proposals: ProposalStore
    population: PopulationStore
    obligations: ObligationStore
    standing: StandingStore
    readings: ReadingStore
    findings: FindingStore
    tasks: TaskStore
    gates: GateStore
    leases: LeaseStore
    journal: JournalStore
    credentials: CredentialStore
    approvals: ApprovalStore
    mails: MailStore
    numbers: NumberStore
    shared: SharedStore
    equipment: EquipmentStore
    people_files: PeopleFileStore
    grounds: GroundStore
    groups: GroupStore
    audit: AuditStore
    clock: ClockStore
    operators: OperatorStore
    idempotency: IdempotencyStore
    views: ViewStore
    saved: SavedViewStore

    async def hint(self) -> None:
        """Tell the workers, once this is committed, that something is due."""
        ...


class Database(Protocol):
    def unit(self, *, alone: bool = False) -> AbstractAsyncContextManager[UnitOfWork]:
        """A transaction; ``alone`` where something is only read, each statement by itself.

        Raises:
            InvalidInput: a value from outside fits no column.
        """
        ...

    async def close(self) -> None:
        """Let go of all connections."""
        ...
