"""Views of lists: kept, shared, shown and taken along as a file; and what changes meanwhile."""

from __future__ import annotations

import codecs
from contextlib import suppress
from pathlib import Path

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.lists import filters
from yugum.core.lists import KnownValue
from yugum.core.views import ExportForm, ListName, ReportName
from yugum.errors import Ambiguous, InvalidInput
from yugum.wire import views as wv

PAGES = click.Choice([p.value for p in ListName])
USUAL = {
    ListName.PEOPLE: ("user_name", "display_name", "department", "title", "site", "state"),
    ListName.ACCOUNTS: ("application_name", "login", "person_name", "state", "last_used"),
    ListName.FINDINGS: ("kind", "application_name", "login", "display_name", "text", "since"),
    ListName.LAST_CALL: ("login", "display_name", "application_name", "recoverable_until"),
    ListName.MAILS: ("made_at", "address", "subject", "kind", "sent_at"),
    ListName.HANDOVER: (
        "name",
        "leaves_at",
        "application_name",
        "thing",
        "count",
        "settled",
        "to_name",
    ),
    ListName.JOINERS: ("starts", "display_name", "title", "department", "missing"),
    ListName.GROUPS: ("application_name", "name", "owner_name", "address", "members", "back_until"),
    ListName.OPERATORS: ("login", "name", "role", "active"),
    ListName.INTEGRATIONS: ("login", "name", "role", "owner", "active"),
    ListName.TOKENS: ("name", "of", "scopes", "expires"),
    ListName.SHARED: ("name", "place", "owner_name", "known_by", "left"),
    ListName.AUDIT: ("at", "actor", "action", "subject_name", "payload", "leaf_index"),
    ListName.DOCKETS: ("number", "title", "subject_name", "due_at", "author", "outcome"),
}
"""The columns of a view that names none."""


def _one(context: Context, name: str) -> wv.ViewRow:
    """A view by its name or id; one's own comes before others' of the same name.

    Raises:
        InvalidInput: there is none.
        Ambiguous: several lists, or several others, have one.
    """
    found = [v for v in context.client().views.all() if name in (v.name, v.id)]
    found = [v for v in found if v.mine] or found
    if not found:
        raise InvalidInput(
            f"You see no view called {name}.", place="NAME", remedy="See: yugum views list."
        )
    if len(found) > 1:
        listed = "; ".join(f"of {v.page}, {v.owner}'s: {v.id}" for v in found)
        raise Ambiguous(
            f"Several views are called {name}: {listed}.", place="NAME", remedy="Name it by its id."
        )
    return found[0]


@click.group("views")
def views() -> None:
    """Lists as you want them: filters, order and columns under a name."""


@views.command("list")
@click.option("--page", type=PAGES, default=None, help="Only views of this list.")
@pass_context
def list_views(context: Context, page: str | None) -> None:
    """List your views and those that others share."""
    context.output().rows(
        context.client().views.all(page or ""),
        {
            "name": "name",
            "list": "page",
            "asks for": "query",
            "columns": "columns",
            "shared": "shared",
            "whose": "owner",
            "start": "start",
        },
        more={"id": "id", "changed": "changed_at"},
        empty="No views yet. Keep one: yugum views keep NAME --page people --filter state=left.",
    )


@views.command("keep")
@click.argument("name")
@click.option("--page", type=PAGES, required=True, help="The list it is of.")
@click.option(
    "--filter", "said", multiple=True, help="NAME=VALUE, also sort and order; repeatable."
)
@click.option("--column", "columns", multiple=True, help="A field of its rows; repeatable.")
@click.option("--shared", is_flag=True, help="Other operators see it too.")
@pass_context
def keep(
    context: Context,
    name: str,
    page: str,
    said: tuple[str, ...],
    columns: tuple[str, ...],
    shared: bool,
) -> None:
    """Keep a view called NAME; one of yours of that name is changed."""
    client = context.client()
    body = wv.NewView(
        page=ListName(page),
        name=name,
        query=filters(said, "--filter"),
        columns=list(columns),
        shared=shared,
    )
    known = next((v for v in client.views.all(page) if v.mine and v.name == name), None)
    done = client.views.change(known.id, body) if known else client.views.keep(body)
    context.output().one(done, [f"{done.name} is {'changed' if known else 'kept'}."])


@views.command("drop")
@click.argument("name")
@pass_context
def drop(context: Context, name: str) -> None:
    """Drop a view of yours."""
    context.client().views.drop(_one(context, name).id)
    click.echo(f"{name} is dropped.")


@views.command("start")
@click.argument("name", required=False, default="")
@pass_context
def start(context: Context, name: str) -> None:
    """Start the console with the view NAME; without one, with the day sheet."""
    context.client().views.start(_one(context, name).id if name else "")
    click.echo(f"The console starts with {name or 'the day sheet'}.")


@views.command("show")
@click.argument("name")
@pass_context
def show(context: Context, name: str) -> None:
    """The rows of the view NAME."""
    view = _one(context, name)
    page = ListName(view.page)
    rows = context.client().views.rows(page, view.query)
    columns = {c: c for c in view.columns or USUAL[page]}
    context.output().rows(rows, columns, empty="Nothing fits this view.")


@click.command("export")
@click.argument("page", type=click.Choice([n.value for n in (*ListName, *ReportName)]))
@click.option(
    "--form", type=click.Choice([f.value for f in ExportForm]), default="csv", help="The format."
)
@click.option(
    "--filter", "said", multiple=True, help="NAME=VALUE, also sort and order; repeatable."
)
@click.option("--view", "name", default="", help="As this view has it.")
@click.option(
    "--to", type=click.Path(dir_okay=False, path_type=Path), help="The file; else printed."
)
@pass_context
def export(
    context: Context, page: str, form: str, said: tuple[str, ...], name: str, to: Path | None
) -> None:
    """Take a list or a report along as a file: every row of it, with the columns of --columns."""
    query, columns = filters(said, "--filter"), list(context.columns)
    if name:
        view = _one(context, name)
        if view.page != page:
            raise InvalidInput(f"{name} is a view of {view.page}.", place="--view")
        query, columns = {**view.query, **query}, columns or view.columns
    listed = ListName(page) if page in [*ListName] else ReportName(page)
    portions = context.client().views.export(listed, ExportForm(form), query, columns)
    if to is None:
        if form == ExportForm.XLSX:
            raise InvalidInput(
                "A workbook is no text to print.",
                place="--to",
                remedy="Say where: --to people.xlsx.",
            )
        for text in codecs.iterdecode(portions, "utf-8"):
            click.echo(text, nl=False)
        return
    partial = to.with_name(f".{to.name}.part")
    try:
        with partial.open("wb") as file:
            for portion in portions:
                file.write(portion)
        partial.replace(to)
    except OSError as error:
        raise InvalidInput(
            f"{to} cannot be written: {error.strerror}.", place="--to", remedy="Name another file."
        ) from error
    finally:
        with suppress(OSError):
            partial.unlink(missing_ok=True)
    click.echo(f"Written to {to}.", err=True)


@click.command("changes")
@pass_context
def changes(context: Context) -> None:
    """Print what changes, as it changes, until interrupted."""
    for nouns in context.client().views.changes():
        click.echo(" ".join(nouns) if nouns else "Watching.", err=not nouns)


@click.command("values")
@click.argument("field", type=click.Choice([v.value for v in KnownValue]))
@click.option("--begins", default="", help="Only those that begin with this, in any case.")
@pass_context
def values(context: Context, field: str, begins: str) -> None:
    """What people have in a FIELD, each value once."""
    found = context.client().people.values(field, begins)
    context.output().one({field: found}, found or ["None."])
