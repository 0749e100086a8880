"""Applications: connecting, trusting, reading."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import IO, Any

import click
from pydantic import BaseModel, ValidationError

from yugum.cli.context import Context, pass_context
from yugum.core.applications import Trust
from yugum.core.readings import ReadingMode
from yugum.errors import InvalidInput, NotFound
from yugum.wire import applications as wap
from yugum.wire.common import TYPED

TRUST = click.Choice([t.value for t in Trust])


class ProfileLine(BaseModel):
    """A field of a profile, and what the rules say instead."""

    field: str
    value: str
    rules: str


@click.group()
def apps() -> None:
    """Applications."""


@apps.command("list")
@pass_context
def list_apps(context: Context) -> None:
    """List applications."""
    context.output().rows(
        context.client().applications.all(),
        {
            "id": "id",
            "name": "name",
            "kind": "kind",
            "trust": "trust",
            "accounts": "accounts",
            "active": "active",
            "last reading": "reading_at",
            "paused until": "paused_until",
            "left this hour": "left_this_hour",
            "problem": "problem",
        },
        empty="No application is connected. Start with: yugum apps connect.",
    )


@apps.command("kinds")
@pass_context
def list_kinds(context: Context) -> None:
    """The kinds of application for which a connector is installed."""
    for kind in context.client().applications.kinds():
        click.echo(kind)


@apps.command("connect")
@click.argument("id")
@click.option("--name", required=True)
@click.option("--kind", required=True, help="One of: yugum apps kinds.")
@click.option("--url", default="", help="Its address, where it has one.")
@click.option("--option", "options", multiple=True, help="NAME=VALUE; several times.")
@click.option(
    "--secret-file",
    type=click.File(),
    default=None,
    help="Bearer token, bind password or connection URL. '-' reads stdin.",
)
@click.option("--contact", default="", help="Whom to call when it does not answer.")
@click.option("--trust", type=TRUST, default=None, help="A new one is watched only.")
@click.option("--set", "said", multiple=True, help="FIELD=VALUE of its profile; several times.")
@click.option("--credential-ends", default="", help="The day the credential runs out.")
@pass_context
def connect(
    context: Context,
    id: str,
    name: str,
    kind: str,
    url: str,
    options: tuple[str, ...],
    secret_file: IO[str] | None,
    contact: str,
    trust: str | None,
    said: tuple[str, ...],
    credential_ends: str,
) -> None:
    """Connect an application, or change how it is reached; what is left out stays as it is."""
    secret = secret_file.read().strip() if secret_file else None
    client = context.client()
    known = next((a for a in client.applications.all() if a.id == id), None)
    profile = profile_said(said, known.profile if known else None)
    row = client.applications.connect(
        wap.ConnectApplication(
            id=id,
            name=name,
            kind=kind,
            url=url,
            options=dict(_pair(o) for o in options),
            secret=secret,
            contact=contact,
            trust=Trust(trust) if trust else None,
            credential_ends=credential_ends,
            profile=profile,
        )
    )
    context.output().one(row, [f"{row.name} can: {', '.join(row.capabilities) or 'nothing'}"])


@apps.command("attributes")
@click.argument("id")
@pass_context
def attributes(context: Context, id: str) -> None:
    """What the attributes of an application's accounts are made of, and who is right about them."""
    row = next((a for a in context.client().applications.all() if a.id == id), None)
    if row is None:
        raise NotFound(f"There is no application {id}.", remedy="See: yugum apps list.")
    columns = {n: n for n in ("name", "of", "keep", "outside", "longest", "values")}
    context.output().rows(row.attributes, columns, empty="Its accounts have none that can be set.")


@apps.command("names")
@click.argument("id")
@click.option(
    "--kind", type=click.Choice(["entitlement", "seat", "setting"]), default="entitlement"
)
@click.option("--search", default="", help="Any part of the name.")
@pass_context
def list_names(context: Context, id: str, kind: str, search: str) -> None:
    """What is known of a kind in an application: held by somebody, given by a role, or on sale."""
    for name in context.client().applications.names(id, kind, search):
        click.echo(name)


def _pair(text: str, place: str = "--option") -> tuple[str, str]:
    name, sign, value = text.partition("=")
    if not sign:
        raise InvalidInput(f"'{text}' is not NAME=VALUE.", place=place)
    return name, value


@apps.command("profile")
@click.argument("id")
@click.option(
    "--set", "said", multiple=True, help="FIELD=VALUE or FIELD.NAME=VALUE; several times."
)
@pass_context
def profile_of(context: Context, id: str, said: tuple[str, ...]) -> None:
    """Show what is particular about an application, or change it field by field.

    Lists are comma-separated; FIELD.NAME= with no value takes the name out. What the rules say
    of an application goes before its profile.
    """
    client = context.client()
    row = next((a for a in client.applications.all() if a.id == id), None)
    if row is None:
        raise NotFound(f"There is no application {id}.", remedy="See: yugum apps list.")
    if said:
        row = client.applications.change_profile(id, profile_said(said, row.profile))
    rows = [
        ProfileLine(
            field=n,
            value=_shown(getattr(row.profile, n)),
            rules=_shown(getattr(row.ruled, n, None)),
        )
        for n in wap.ProfileDocument.model_fields
    ]
    columns = {"field": "field", "value": "value", "the rules say": "rules"}
    context.output().rows(rows, columns, empty="")


def profile_said(said: Sequence[str], before: wap.ProfileView | None) -> wap.ProfileDocument:
    """A profile with only what was said, checked; single names of a field go over ``before``."""
    values: dict[str, Any] = {}
    for text in said:
        path, value = _pair(text, "--set")
        name, dot, key = path.partition(".")
        default = wap.ProfileDocument.model_fields.get(name)
        if default is None or bool(dot) != isinstance(default.default, dict):
            known = ", ".join(
                f"{n}.NAME" if isinstance(f.default, dict) else n
                for n, f in wap.ProfileDocument.model_fields.items()
            )
            raise InvalidInput(
                f"A profile has no field {path}.", place="--set", remedy=f"Use one of: {known}."
            )
        if dot:
            held = values.setdefault(name, dict(getattr(before, name, {})))
            held.pop(key, None)
            if value:
                held[key] = value
        elif isinstance(default.default, list):
            values[name] = [part.strip() for part in value.split(",") if part.strip()]
        else:
            values[name] = value
    try:
        return wap.ProfileDocument.model_validate(values, context=TYPED)
    except ValidationError as error:
        first = error.errors()[0]
        raise InvalidInput(
            f"{'.'.join(str(p) for p in first['loc'])}: {first['msg']}.", place="--set"
        ) from error


def _shown(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, dict):
        return ", ".join(f"{k}={v}" for k, v in sorted(value.items()))
    return ", ".join(map(str, value)) if isinstance(value, list) else str(value)


@apps.command("trust")
@click.argument("id")
@click.argument("trust", type=TRUST)
@pass_context
def trust_app(context: Context, id: str, trust: str) -> None:
    """Say what Yugum may do there: watch, add or full."""
    row = context.client().applications.trust(id, Trust(trust))
    context.output().one(row, [f"{row.name}: {row.trust}"])


@apps.command("disconnect")
@click.argument("id")
@click.option("--erase", is_flag=True, help="Keep nothing here of its accounts and their history.")
@click.option("--reason", required=True)
@click.option("--yes", is_flag=True, help="Do not ask.")
@click.option("--typed", default="", help="Its id, with --erase.")
@pass_context
def disconnect(context: Context, id: str, erase: bool, reason: str, yes: bool, typed: str) -> None:
    """Show what follows from disconnecting an application, ask, and do it.

    Nothing is changed in the application. With --erase also for one that is disconnected already.
    """
    client = context.client()
    plan = client.applications.plan_disconnection(id, erase=erase)
    for line in plan.follows:
        click.echo(line, err=True)
    if not yes and not click.confirm(f"Disconnect {plan.name}?", err=True):
        raise click.Abort
    if erase and not typed and not yes:
        typed = click.prompt(f"It cannot be put back. Type {id}", err=True)
    done = client.applications.disconnect(plan, reason, typed=typed)
    context.output().one(done, [f"{done.name} is disconnected."])


@apps.command("gone")
@pass_context
def gone(context: Context) -> None:
    """Applications that are not connected any more."""
    context.output().rows(
        context.client().applications.gone(),
        {
            "id": "id",
            "name": "name",
            "kind": "kind",
            "disconnected": "disconnected_at",
            "accounts kept": "archived",
        },
        empty="None has been disconnected.",
    )


@apps.command("archived")
@click.argument("id")
@pass_context
def archived(context: Context, id: str) -> None:
    """The accounts kept of an application that was disconnected, as they were then."""
    context.output().rows(
        context.client().applications.archived(id),
        {
            "login": "login",
            "name": "display_name",
            "person": "person",
            "state": "state",
            "groups": "entitlements",
            "seats": "seats",
            "seen": "seen_at",
        },
        empty="Nothing is kept of it.",
    )


@apps.command("hold")
@click.argument("id")
@click.option("--reason", required=True)
@click.option("--ends", default="", help="Until when; for good if left out.")
@pass_context
def hold_app(context: Context, id: str, reason: str, ends: str) -> None:
    """Let nothing of an application be deleted or purged while this lasts."""
    made = context.client().hold(id, reason, ends)
    context.output().one(made, [f"{id} is on hold: {made.id}"])


@apps.command("read")
@click.argument("id")
@click.option("--changes", is_flag=True, help="Only what has changed, where it can tell.")
@click.option("--believe", is_flag=True, help="Take a sudden fall as right.")
@pass_context
def read(context: Context, id: str, changes: bool, believe: bool) -> None:
    """Read the accounts of an application."""
    mode = ReadingMode.CHANGES if changes else ReadingMode.FULL
    result = context.client().applications.read(id, mode=mode, believe=believe)
    context.output().one(
        result,
        [
            f"{result.accounts} accounts: {result.new} new, {result.changed} changed, "
            f"{result.gone} gone, {result.unreadable} unreadable",
            f"{result.linked} linked, {result.nobody} with nobody behind, "
            f"{result.outside} changes made outside",
        ],
    )


@apps.command("readings")
@click.argument("id")
@pass_context
def readings(context: Context, id: str) -> None:
    """The latest readings of an application."""
    context.output().rows(
        context.client().applications.readings(id).items,
        {
            "began": "began_at",
            "mode": "mode",
            "state": "state",
            "by": "author",
            "counts": "counts",
            "problem": "problem",
        },
        empty="It has not been read yet.",
    )


@apps.command("unreadable")
@click.argument("id")
@click.option("--retry", default="", help="Look again at this record (its id).")
@pass_context
def unreadable(context: Context, id: str, retry: str) -> None:
    """Records that could not be understood, each with its reason."""
    client = context.client()
    if retry:
        client.applications.retry(id, retry)
    context.output().rows(
        client.applications.unreadable(id),
        {"id": "external_id", "login": "login", "reason": "reason", "seen": "at"},
        empty="Every record was understood.",
    )


@apps.command("upload")
@click.argument("id")
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@pass_context
def upload(context: Context, id: str, file: Path) -> None:
    """Take a CSV FILE (login, name, number, state, groups) as what a manual application holds."""
    client = context.client()
    client.applications.upload(id, file.read_text("utf-8-sig"))
    result = client.applications.read(id)
    context.output().one(
        result, [f"{result.accounts} accounts, {result.linked} linked, {result.nobody} nobody's"]
    )
