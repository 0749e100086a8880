"""What a row of each list and report has."""

from __future__ import annotations

from collections.abc import Mapping

from yugum.core.views import ListName, ReportName
from yugum.wire.accounts import AccountRow
from yugum.wire.audit import AuditEvent
from yugum.wire.common import Model
from yugum.wire.day import LastCall
from yugum.wire.dockets import DocketRow
from yugum.wire.findings import Finding
from yugum.wire.groups import GroupRow
from yugum.wire.handover import BoardRow
from yugum.wire.mails import MailRow
from yugum.wire.operators import IntegrationRow, OperatorRow, TokenRow
from yugum.wire.people import JoinerRow, PersonRow
from yugum.wire.reports import CutOffRow
from yugum.wire.seat_reports import (
    OverRow,
    ReclaimableRow,
    SeatCostRow,
    SeatHeldRow,
    StartingRow,
)
from yugum.wire.shared import SharedRow

ROWS: Mapping[ListName | ReportName, type[Model]] = {
    ListName.PEOPLE: PersonRow,
    ListName.ACCOUNTS: AccountRow,
    ListName.DOCKETS: DocketRow,
    ListName.FINDINGS: Finding,
    ListName.LAST_CALL: LastCall,
    ListName.MAILS: MailRow,
    ListName.HANDOVER: BoardRow,
    ListName.JOINERS: JoinerRow,
    ListName.GROUPS: GroupRow,
    ListName.OPERATORS: OperatorRow,
    ListName.INTEGRATIONS: IntegrationRow,
    ListName.TOKENS: TokenRow,
    ListName.SHARED: SharedRow,
    ListName.AUDIT: AuditEvent,
    ReportName.COSTS: SeatCostRow,
    ReportName.RECLAIMABLE: ReclaimableRow,
    ReportName.OVER: OverRow,
    ReportName.HELD: SeatHeldRow,
    ReportName.STARTING: StartingRow,
    ReportName.LEAVERS: CutOffRow,
}
"""Its fields are the columns that can be shown."""
