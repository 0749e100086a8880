"""A plan in the making: steps, cautions, what stays and what is withheld."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime

from yugum.core.accounts import Account
from yugum.core.actions import ADDING, Action, Phase
from yugum.core.applications import Application, Trust
from yugum.core.decisions import FOUND, Origin
from yugum.core.desired import Subject, World
from yugum.core.plans import Caution, Plan, PlannedStep, in_order
from yugum.core.summaries import summarise


@dataclass(slots=True)
class Draft:
    """A plan in the making."""

    subject: Subject
    world: World
    at: datetime
    steps: list[PlannedStep] = field(default_factory=list)
    cautions: list[Caution] = field(default_factory=list)
    stays: list[dict[str, str]] = field(default_factory=list)
    withheld: dict[str, set[Action]] = field(default_factory=dict)

    def add(
        self,
        application: Application,
        account: Account | None,
        action: Action,
        before: str,
        after: str,
        reason: str,
        *,
        item: str = "",
        arguments: Mapping[str, object] | None = None,
        origin: Origin | None = None,
        phase: Phase | None = None,
    ) -> None:
        if application.trust is Trust.WATCH or (
            application.trust is Trust.ADD and action not in ADDING
        ):
            self.withheld.setdefault(application.id, set()).add(action)
            return
        self.steps.append(
            PlannedStep(
                application_id=application.id,
                account_id=account.id if account else "",
                action=action,
                item=item,
                arguments=arguments or {},
                before=before,
                after=after,
                reason=reason,
                origin=origin,
                phase=phase,
            )
        )

    def warn(self, code: str, text: str, blocks: str = "") -> None:
        caution = Caution(code, text, blocks)
        if caution not in self.cautions:
            self.cautions.append(caution)

    def tell_withheld(self) -> None:
        """Say what is not done because the application is not trusted that far."""
        for application_id, actions in sorted(self.withheld.items()):
            application = self.world.applications[application_id]
            may = "only watched" if application.trust is Trust.WATCH else "only added to"
            words = ", ".join(sorted(a.value.replace("_", " ") for a in actions))
            self.warn(
                "not-trusted",
                f"{application.name} is {may}: left to its own administrators are {words}.",
                "trust",
            )

    def origin_of(self, account: Account, kind: str, item: str) -> Origin:
        return self.subject.ledger.get((account.id, kind, item), FOUND)

    def finish(self, verb: str) -> Plan:
        steps = in_order(self.steps)
        self.tell_withheld()
        plan = Plan(
            subject_id=self.subject.person.id,
            verb=verb,
            steps=steps,
            cautions=tuple(self.cautions),
            stays=tuple(self.stays),
        )
        return replace(plan, summary=summarise(plan, self.world.applications))
