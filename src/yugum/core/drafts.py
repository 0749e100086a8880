"""A plan in the making: steps, cautions, what stays and what is withheld."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import TypedDict, Unpack

from yugum.core.accounts import Account, HoldingKind
from yugum.core.actions import Action, Arguments, Phase
from yugum.core.actions.registry import ACTIONS, COMING_ALONG
from yugum.core.applications import Application, Trust
from yugum.core.decisions import FOUND, Origin
from yugum.core.desired import Subject, World
from yugum.core.plans import Caution, Plan, PlannedStep, Stay, in_order
from yugum.core.summaries import summarise
from yugum.core.verbs import Verb

NOT_TRUSTED, CANNOT = "not-trusted", "cannot"


class More(TypedDict, total=False):
    """What else a step can be told."""

    item: str
    arguments: Arguments
    origin: Origin | None
    phase: Phase | None


@dataclass(slots=True)
class Draft:
    """A plan in the making."""

    subject: Subject
    world: World
    at: datetime
    steps: list[PlannedStep] = field(default_factory=list)
    cautions: list[Caution] = field(default_factory=list)
    stays: list[Stay] = field(default_factory=list)
    held_back: list[tuple[PlannedStep, str]] = field(default_factory=list)
    """What should be done but is not, each with the code of what stands in its way."""

    def add(
        self,
        application: Application,
        account: Account | None,
        action: Action,
        before: str,
        after: str,
        reason: str,
        **more: Unpack[More],
    ) -> None:
        """Add a step, where the application is trusted that far and can do it at all."""
        spec = ACTIONS[action]
        step = _step(application, account, action, before, after, reason, **more)
        if application.trust is Trust.WATCH or (application.trust is Trust.ADD and not spec.adds):
            self.held_back.append((step, NOT_TRUSTED))
            return
        needed = spec.needs.capability
        if needed is not None and not application.can(needed):
            self.warn(
                CANNOT,
                f"{application.name} cannot do this: {spec.words.does} {step.item}".rstrip() + ".",
                action.value,
            )
            self.held_back.append((step, CANNOT))
            return
        self.steps.append(step)
        for other in COMING_ALONG.get(action, ()):
            if account is not None:
                other.come_along(self, application, account, reason)

    def hold_back(
        self,
        code: str,
        application: Application,
        account: Account | None,
        action: Action,
        before: str,
        after: str,
        reason: str,
        **more: Unpack[More],
    ) -> None:
        """Say what should be done that cannot even be planned; a caution of the same code says why."""
        step = _step(application, account, action, before, after, reason, **more)
        self.held_back.append((step, code))

    def warn(self, code: str, text: str, blocks: str = "") -> None:
        caution = Caution(code, text, blocks)
        if caution not in self.cautions:
            self.cautions.append(caution)

    def stay(self, application: Application, item: str, reason: str) -> None:
        """Say of something held that it stays as it is."""
        self.stays.append(Stay(application.id, item, reason))

    def lacks(self, account: Account, what: Action) -> bool:
        """Whether an account needs something of this action that will not happen, though Yugum is trusted with it."""
        return any(
            step.action is what and step.account_id == account.id
            for step, code in self.held_back
            if code != NOT_TRUSTED
        )

    def tell_withheld(self) -> None:
        """Say what is not done because the application is not trusted that far."""
        withheld: dict[str, set[Action]] = {}
        for step, code in self.held_back:
            if code == NOT_TRUSTED:
                withheld.setdefault(step.application_id, set()).add(step.action)
        for application_id, actions in sorted(withheld.items()):
            application = self.world.applications[application_id]
            may = "only watched" if application.trust is Trust.WATCH else "only added to"
            words = ", ".join(sorted(a.value.replace("_", " ") for a in actions))
            self.warn(
                NOT_TRUSTED,
                f"{application.name} is {may}: left to its own administrators are {words}.",
                "trust",
            )

    def origin_of(self, account: Account, kind: HoldingKind, item: str = "") -> Origin:
        """Why an account holds something; what the ledger does not know was found there."""
        return self.subject.ledger.get((account.id, kind, item), FOUND)

    def finish(self, verb: Verb) -> Plan:
        self.tell_withheld()
        plan = Plan(
            subject_id=self.subject.person.id,
            verb=verb,
            steps=in_order(self.steps),
            cautions=tuple(self.cautions),
            stays=tuple(self.stays),
        )
        return replace(plan, summary=summarise(plan.steps, self.world.applications))


def _step(
    application: Application,
    account: Account | None,
    action: Action,
    before: str,
    after: str,
    reason: str,
    **more: Unpack[More],
) -> PlannedStep:
    return PlannedStep(
        application_id=application.id,
        account_id=account.id if account else "",
        action=action,
        before=before,
        after=after,
        reason=reason,
        **more,
    )
