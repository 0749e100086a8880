"""All use cases, offered as one dataclass; built by ``bootstrap``."""

from __future__ import annotations

from dataclasses import dataclass

from yugum.engine.accepting import Accepting
from yugum.engine.access import Access
from yugum.engine.accounts import Accounts
from yugum.engine.allocations import Allocations
from yugum.engine.applications import Applications
from yugum.engine.approvals import Approvals
from yugum.engine.audit import AuditLog
from yugum.engine.birthdays import Birthdays
from yugum.engine.clock import Clock
from yugum.engine.compare import Comparing
from yugum.engine.courtesy import Courtesy
from yugum.engine.credentials import Credentials
from yugum.engine.decisions import Decisions
from yugum.engine.declined import DeclinedPeople
from yugum.engine.disconnecting import Disconnecting
from yugum.engine.dockets import Dockets
from yugum.engine.equipment import Equipment
from yugum.engine.forecasts import Forecasts
from yugum.engine.groups import Groups
from yugum.engine.handover import Handover
from yugum.engine.issuing import Issuing
from yugum.engine.leaver_files import LeaverFiles
from yugum.engine.leaver_reports import LeaverReports
from yugum.engine.links import Links
from yugum.engine.mails import Mails
from yugum.engine.names import Names
from yugum.engine.operators import Operators
from yugum.engine.orders import Orders
from yugum.engine.overview import Overview
from yugum.engine.people import People
from yugum.engine.people_files import PeopleFiles
from yugum.engine.plans.plans import Plans
from yugum.engine.questions import Questions
from yugum.engine.readiness import Readiness
from yugum.engine.readings import Readings
from yugum.engine.reclaim import Reclaim
from yugum.engine.records import Records
from yugum.engine.references import References
from yugum.engine.replies import Replies
from yugum.engine.reservations import Reservations
from yugum.engine.rules import Rules
from yugum.engine.seat_reports import SeatReports
from yugum.engine.seats import Seats
from yugum.engine.shared import Shared
from yugum.engine.standings import Standings
from yugum.engine.takeovers import Takeovers
from yugum.engine.tasks import Tasks
from yugum.engine.veils import Veils
from yugum.engine.views import SavedViews
from yugum.engine.watching import Watching
from yugum.ports.connectors import Connectors
from yugum.settings import Settings


@dataclass(frozen=True, slots=True, kw_only=True)
class Services:
    """``connectors`` are here for their kinds, and to be looked up anew when one has changed."""

    settings: Settings
    access: Access
    accounts: Accounts
    applications: Applications
    approvals: Approvals
    audit: AuditLog
    clock: Clock
    comparing: Comparing
    connectors: Connectors
    courtesy: Courtesy
    credentials: Credentials
    issuing: Issuing
    decisions: Decisions
    disconnecting: Disconnecting
    dockets: Dockets
    links: Links
    mails: Mails
    names: Names
    operators: Operators
    overview: Overview
    people: People
    people_files: PeopleFiles
    leaver_files: LeaverFiles
    leaver_reports: LeaverReports
    birthdays: Birthdays
    declined: DeclinedPeople
    plans: Plans
    readings: Readings
    readiness: Readiness
    records: Records
    replies: Replies
    rules: Rules
    forecasts: Forecasts
    orders: Orders
    questions: Questions
    takeovers: Takeovers
    allocations: Allocations
    seat_reports: SeatReports
    reclaim: Reclaim
    reservations: Reservations
    seats: Seats
    shared: Shared
    equipment: Equipment
    groups: Groups
    handover: Handover
    references: References
    standing: Standings
    accepting: Accepting
    tasks: Tasks
    veils: Veils
    watching: Watching
    views: SavedViews
