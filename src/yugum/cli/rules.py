"""Rules and roles: check, try, adopt; who gets what and why; comparing."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import click

from yugum.cli.context import Context, pass_context
from yugum.core.wording import plural
from yugum.wire import trials as wt

REFUSED = 4


@click.group()
def rules() -> None:
    """What each person should have, and how it is carried out."""


FILE = click.Path(exists=True, dir_okay=False, allow_dash=True, path_type=Path)


def _text(file: Path) -> str:
    if str(file) == "-":
        return sys.stdin.read()
    return file.read_text("utf-8")


@rules.command("show")
@click.option("--version", type=int, default=None, help="An earlier version.")
@pass_context
def show_rules(context: Context, version: int | None) -> None:
    """The rules in force, as they were written."""
    noun = context.client().rules
    view = noun.show() if version is None else noun.version(version)
    context.output().one(view, [f"# version {view.version}", view.text.rstrip()])


@rules.command("export")
@click.argument("file", type=click.Path(path_type=Path))
@pass_context
def export_rules(context: Context, file: Path) -> None:
    """Write the rules in force to FILE, to edit and adopt again."""
    view = context.client().rules.show()
    file.write_text(view.text, "utf-8")
    click.echo(f"{file}: version {view.version}")


@rules.command("schema")
@pass_context
def schema(context: Context) -> None:
    """The JSON Schema of a rules file, for editors that complete and check."""
    click.echo(json.dumps(context.client().rules.schema(), indent=2))


def _show_problems(context: Context, problems: list[wt.RuleProblem], file: Path) -> None:
    if context.form != "table":
        context.output().rows(problems, {k: k for k in wt.RuleProblem.model_fields})
        return
    for problem in problems:
        click.echo(f"{file}:{problem.line}:{problem.column}: {problem.message}")
        if problem.remedy:
            click.echo(f"  → {problem.remedy}")


@rules.command("check")
@click.argument("file", type=FILE)
@pass_context
def check(context: Context, file: Path) -> None:
    """Find every mistake in a rules FILE."""
    problems = context.client().rules.check(_text(file))
    _show_problems(context, problems, file)
    if problems:
        sys.exit(REFUSED)
    if context.form == "table":
        click.echo(f"{file}: no mistakes.")


@rules.command("try")
@click.argument("file", type=FILE)
@click.option("--who", multiple=True, help="Only these people, by login or number.")
@pass_context
def try_out(context: Context, file: Path, who: tuple[str, ...]) -> None:
    """Who would gain and lose what under a rules FILE; nothing is changed."""
    client, text = context.client(), _text(file)
    if problems := client.rules.check(text):
        _show_problems(context, problems, file)
        sys.exit(REFUSED)
    trial = client.rules.try_out(text, who)
    context.output().one(trial, told(trial))


def told(trial: wt.TrialView) -> list[str]:
    """A trial as people read it."""
    lines = [
        f"Compared with version {trial.version}: {trial.looked_at} people in "
        f"{trial.combinations} combinations; {trial.people} of them gain {trial.gained} and lose "
        f"{trial.lost} things; {plural(trial.losing, 'person loses', 'people lose')} something."
    ]
    for line in trial.lines:
        what = f"{line.application_id}: {line.kind} {line.item}".rstrip()
        names = ", ".join(s.name for s in line.samples)
        for count, word in ((line.gained, "gain"), (line.lost, "lose")):
            if count:
                roles = ", ".join(line.roles)
                lines.append(f"  {count:5} {word}  {what}  ({roles})  such as {names}")
    for short in trial.short:
        lines.append(
            f"  ! {short.application_id}: {short.lacking} seats of {short.license} are "
            f"missing ({short.free} free)."
        )
    lines += [f"  {count} approvals by {name}" for name, count in trial.approvals.items()]
    lines += [f"  {count} tasks in {name}" for name, count in trial.tasks.items()]
    return lines


@rules.command("adopt")
@click.argument("file", type=FILE)
@click.option("--note", default="", help="Why, for the record.")
@click.option("--take-away", type=click.IntRange(min=0), default=None, help="How much may be lost.")
@click.option("--carry-out", is_flag=True, help="Look again at once at everybody it changes.")
@click.option("--yes", is_flag=True, help="Do not ask.")
@pass_context
def adopt(
    context: Context, file: Path, note: str, take_away: int | None, carry_out: bool, yes: bool
) -> None:
    """Adopt a rules FILE (YAML) as the next version, after showing what it changes."""
    client, text = context.client(), _text(file)
    if problems := client.rules.check(text):
        _show_problems(context, problems, file)
        sys.exit(REFUSED)
    trial = client.rules.try_out(text)
    if context.form == "table":
        for line in told(trial):
            click.echo(line)
    if not yes and not click.confirm("Adopt this as the next version?", err=True):
        click.echo("Nothing was changed.", err=True)
        return
    made = client.rules.adopt(
        text, note, after=trial.version, take_away=take_away, carry_out=carry_out
    )
    lines = [f"Version {made.version} is in force."]
    if made.rechecked:
        lines.append(f"{made.rechecked} people are looked at again.")
    context.output().one(made, lines)


@rules.command("history")
@pass_context
def history(context: Context) -> None:
    """The versions there have been."""
    context.output().rows(
        context.client().rules.versions(),
        {"version": "version", "adopted": "adopted_at", "by": "adopted_by", "note": "note"},
    )


@click.group(invoke_without_command=True)
@click.pass_context
def roles(click_context: click.Context) -> None:
    """Roles with their conditions and what they give."""
    if click_context.invoked_subcommand is None:
        context: Context = click_context.obj
        context.output().rows(
            context.client().roles.all(), {"role": "name", "when": "when", "gives": "gives"}
        )


@roles.command("compare")
@click.argument("left")
@click.argument("right")
@pass_context
def compare_roles(context: Context, left: str, right: str) -> None:
    """What two roles give, line by line."""
    show_comparison(context, context.client().roles.compare(left, right))


def show_comparison(context: Context, found: wt.Comparison) -> None:
    lines = []
    for title, rows in (
        (f"Both {found.left} and {found.right}", found.both),
        (f"Only {found.left}", found.only_left),
        (f"Only {found.right}", found.only_right),
    ):
        lines.append(title)
        for row in rows:
            because = ", ".join(dict.fromkeys(b for b in (row.left, row.right) if b))
            lines.append(f"  {row.application_id}: {row.kind} {row.item}  ({because})")
        if not rows:
            lines.append("  nothing")
    context.output().one(found, lines)
