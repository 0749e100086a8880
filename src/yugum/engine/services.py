"""All use cases, offered as one dataclass; built by ``bootstrap``."""

from __future__ import annotations

from dataclasses import dataclass

from yugum.engine.access import Access
from yugum.engine.applications import Applications
from yugum.engine.approvals import Approvals
from yugum.engine.audit import Exports
from yugum.engine.clock import Clock
from yugum.engine.compare import Comparing
from yugum.engine.credentials import Credentials
from yugum.engine.decisions import Decisions
from yugum.engine.dockets import Dockets
from yugum.engine.links import Links
from yugum.engine.mails import Mails
from yugum.engine.namings import Namings
from yugum.engine.people import People
from yugum.engine.plans import Plans
from yugum.engine.readiness import Readiness
from yugum.engine.readings import Readings
from yugum.engine.records import Records
from yugum.engine.rules import Rules
from yugum.engine.seats import Seats
from yugum.engine.shared import Shared
from yugum.engine.tasks import Tasks
from yugum.engine.veils import Veils
from yugum.ports import Clock as ClockPort
from yugum.ports import Database
from yugum.settings import Settings


@dataclass(frozen=True, slots=True, kw_only=True)
class Services:
    settings: Settings
    database: Database
    now: ClockPort
    access: Access
    applications: Applications
    approvals: Approvals
    clock: Clock
    comparing: Comparing
    credentials: Credentials
    decisions: Decisions
    dockets: Dockets
    exports: Exports
    links: Links
    mails: Mails
    namings: Namings
    people: People
    plans: Plans
    readings: Readings
    readiness: Readiness
    records: Records
    rules: Rules
    seats: Seats
    shared: Shared
    tasks: Tasks
    veils: Veils
