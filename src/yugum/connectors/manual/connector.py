"""The manual connector: looks into Yugum's own book of the application, and asks people to act.

The book comes from an uploaded file and from tasks that were reported done.
"""

from __future__ import annotations

from collections.abc import AsyncIterator, Mapping, Sequence
from datetime import datetime, timedelta

from yugum.connectors.clock import moment
from yugum.core.accounts import Observed, Unreadable
from yugum.core.actions import Action, Arguments, Done
from yugum.core.applications import Capability
from yugum.core.tasks import instructions
from yugum.errors import ApplicationRejected, ConfigError, InvalidInput
from yugum.ports.connectors import AccountRef, ConnectorSpec, Discovery
from yugum.ports.tasks import NewTask
from yugum.ports.units import Database

CAPABILITIES = frozenset({Capability.SUSPEND, Capability.ENTITLEMENTS, Capability.PURGE})
LONGEST_HOURS = 8760.0
OPTIONS = {"hours": "24", "cut_off_hours": "1", "urgent_hours": "0.25", "help": "", "groups": ""}


def connect(spec: ConnectorSpec) -> ManualConnector:
    """The entry point; options ``hours``, ``cut_off_hours`` and ``urgent_hours`` (a cut-off that is
    urgent) say how long a task may take, ``groups`` (names between semicolons) which groups there are;
    without it any may be granted.
    """
    if unknown := sorted(set(spec.options) - set(OPTIONS)):
        raise InvalidInput(
            f"A manual application has no option {unknown[0]}.",
            place=f"options.{unknown[0]}",
            remedy=f"Use: {', '.join(OPTIONS)}.",
        )
    for name in ("hours", "cut_off_hours", "urgent_hours"):
        _must_be_hours(name, spec.options.get(name, OPTIONS[name]))
    if spec.database is None:
        raise ConfigError("A manual application needs the database.")
    return ManualConnector(spec.application_id, spec.name, spec.database, spec.options)


def _must_be_hours(name: str, text: str) -> None:
    try:
        good = 0 < float(text) <= LONGEST_HOURS
    except ValueError:
        good = False
    if not good:
        raise InvalidInput(
            f"'{text}' is no number of hours.",
            place=f"options.{name}",
            remedy="Write 24, or 0.25 for a quarter of an hour.",
        )


def connect_sign_on(spec: ConnectorSpec) -> SignOnConnector:
    """The entry point of applications that are reached only by another one's sign-on."""
    if not spec.options.get("through"):
        raise InvalidInput(
            "Say through which application's sign-on this one is reached.",
            place="options.through",
            remedy="For example: --option through=staff-directory.",
        )
    return SignOnConnector()


class ManualConnector:
    """One application that only people can change."""

    def __init__(
        self, application_id: str, name: str, database: Database, options: Mapping[str, str]
    ) -> None:
        self.call_timeout = 5.0
        self._id = application_id
        self._name = name
        self._database = database
        self._options = {**OPTIONS, **options}

    async def close(self) -> None:
        return None

    async def discover(self) -> Discovery:
        return Discovery(CAPABILITIES)

    async def read(
        self,
        since: datetime | None = None,  # noqa: ARG002 - the book is short
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        after = ""
        while True:
            async with self._database.unit() as unit:
                page = await unit.tasks.book(self._id, after, 500)
            if not page:
                return
            yield page
            after = page[-1].external_id

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:  # noqa: ARG002
        async with self._database.unit() as unit:
            return await unit.tasks.entry(self._id, ref.external_id, ref.account_id, ref.login)

    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",  # noqa: ARG002 - nobody is handed a secret on paper
    ) -> Done:
        """A task for the owner; the same one when it is open already.

        Raises:
            ApplicationRejected: by the book it cannot be done, so nobody is asked to.
        """
        await self._refuse_the_impossible(action, ref, item, arguments)
        return await self._ask(action, ref, item, arguments)

    async def _refuse_the_impossible(
        self, action: Action, ref: AccountRef, item: str, arguments: Arguments
    ) -> None:
        groups = [g.strip() for g in self._options["groups"].split(";") if g.strip()]
        if action is Action.GRANT and groups and item not in groups:
            raise ApplicationRejected(
                f"{self._name} has no group {item}.",
                remedy=f"Known are: {', '.join(groups)}; see its option groups.",
            )
        if action is Action.CREATE:
            login = arguments.login or ref.login
            async with self._database.unit() as unit:
                there = await unit.tasks.entry(self._id, "", "", login)
            if there is not None and there.correlation != ref.account_id:
                raise ApplicationRejected(f"{self._name} has an account {login} already.")

    async def _ask(self, action: Action, ref: AccountRef, item: str, arguments: Arguments) -> Done:
        option = "hours"
        if action is Action.CUT_OFF:
            option = "urgent_hours" if arguments.urgent else "cut_off_hours"
        hours = float(self._options[option])
        text = instructions(action, ref.login, item, arguments, self._name)
        if self._options["help"]:
            text = f"{text} {self._options['help']}"
        async with self._database.unit() as unit:
            task_id = await unit.tasks.open(
                NewTask(
                    application_id=self._id,
                    account_id=ref.account_id,
                    external_id=ref.external_id,
                    login=ref.login,
                    action=action,
                    item=item,
                    arguments=arguments,
                    instructions=text,
                ),
                await moment(unit),
                timedelta(hours=hours),
            )
        return Done(task=task_id)


class SignOnConnector:
    """An application with no accounts of its own: it opens and closes with another's."""

    call_timeout = 5.0

    async def close(self) -> None:
        return None

    async def discover(self) -> Discovery:
        return Discovery(frozenset())

    async def read(
        self,
        since: datetime | None = None,  # noqa: ARG002
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        pages: tuple[list[Observed], ...] = ()
        for page in pages:
            yield page

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:  # noqa: ARG002
        return None

    async def act(
        self,
        action: Action,
        ref: AccountRef,  # noqa: ARG002
        item: str,  # noqa: ARG002
        arguments: Arguments,  # noqa: ARG002
        secret: str = "",  # noqa: ARG002
    ) -> Done:
        raise InvalidInput(f"An application behind a sign-on has nothing to {action.value}.")
