"""What every proof has: a report of checks, the client, and looks into the applications."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Any

import click

from yugum.client import Client
from yugum.core.verbs import Verb
from yugum.wire import accounts as wac
from yugum.wire import dockets as wd
from yugum.wire import plans as wl
from yugum_standins.load import loaded
from yugum_standins.look import CrewLook, DirectoryLook, PostLook, ReportingLook
from yugum_standins.stage import Stage


class Report:
    """Sections and checks as they happen."""

    def __init__(self) -> None:
        self.passed = 0
        self.failed = 0

    def section(self, title: str) -> None:
        click.echo("")
        click.secho(title, bold=True)

    def note(self, text: str) -> None:
        click.echo(f"    {text}")

    def check(self, text: str, good: bool, seen: object = "") -> None:
        if good:
            self.passed += 1
            click.echo(f"  ✓ {text}")
        else:
            self.failed += 1
            click.secho(f"  ✗ {text}  (seen: {seen})", fg="red")

    def equal(self, text: str, seen: object, wanted: object) -> None:
        self.check(text, seen == wanted, seen)

    def close(self) -> int:
        click.echo("")
        click.echo(f"{self.passed} checks passed, {self.failed} failed")
        return 1 if self.failed or not self.passed else 0


class Play:
    """The story's stage: the client on one side, the applications on the other."""

    def __init__(self, stage: Stage, client: Client, report: Report) -> None:
        self.stage = stage
        self.client = client
        self.report = report
        organisation = loaded(stage)
        self.organisation = organisation
        self.crew = CrewLook(organisation.crew["url"], organisation.crew["headers"])
        self.reporting = ReportingLook(organisation.reporting)
        self.directory = DirectoryLook(stage.directories[0])
        self.post = PostLook(stage.folder)
        self.passwords: dict[str, str] = {}

    def secret(self, login: str, application: str) -> str:
        """Open the one-time link of an account's initial credential."""
        account = next(
            a for a in self.client.people.show(login).accounts if a.application_id == application
        )
        link = self.client.credentials.hand_over(account.id, "known in person")
        return self.client.accounts.open_credential(link.link.rsplit("#", 1)[1]).secret

    def plan(self, verb: Verb, who: str, **more: Any) -> wl.BatchView:
        more.pop("reason", None)
        batch = self.client.plans.make(wl.NewPlan(verb=verb, who=[who], **more))
        for line in batch.plans[0].summary:
            self.report.note(line)
        for caution in batch.plans[0].cautions:
            self.report.note(f"! {caution.text}")
        return batch

    def show_steps(self, batch: wl.BatchView) -> None:
        for step in batch.plans[0].steps:
            name = batch.applications[step.application_id]
            self.report.note(f"{name}: {step.action} {step.item} because {step.reason}")

    def confirm(self, batch: wl.BatchView) -> wd.DocketView:
        docket = self.client.plans.confirm(batch, reference="PROOF-1")[0]
        view = list(self.client.dockets.follow(docket.number))[-1]
        for step in view.steps:
            if step.problem and step.state != "done":
                self.report.note(f"! {step.application_name}: {step.problem.text}")
        return view

    def follow(self, dockets: Sequence[wl.ConfirmedDocket]) -> None:
        """Wait for several dockets."""
        for docket in dockets:
            for _ in self.client.dockets.follow(docket.number):
                pass

    def account(self, login: str, application: str) -> wac.AccountRow:
        """What Yugum says of somebody's account, also of a deleted one."""
        return self.client.accounts.page(who=login, application=application).items[0]

    def until(self, holds: Callable[[], bool], seconds: float = 15) -> None:
        """Wait for something that comes about outside Yugum."""
        deadline = time.monotonic() + seconds
        while not holds() and time.monotonic() < deadline:
            time.sleep(0.1)

    @property
    def now(self) -> datetime:
        return self.client.clock.show().now
