"""How plans and other things of the core are written out in the book."""

from __future__ import annotations

import dataclasses
import enum
from collections.abc import Callable, Iterable, Iterator, Mapping
from datetime import date, datetime
from typing import Any

from yugum.core.actions.registry import ACTIONS
from yugum.core.plans import Plan, PlannedStep
from yugum.errors import YugumError

Lines = Iterator[str]


def told(value: Any) -> str:
    """A value in one line: sets in order, dataclasses by what is not as it is by itself."""
    match value:
        case enum.Enum():
            return str(value.value)
        case datetime() | date():
            return value.isoformat()
        case None | bool() | int() | float() | str() | bytes():
            return repr(value)
        case Mapping():
            return "{" + ", ".join(f"{told(k)}: {told(value[k])}" for k in sorted(value)) + "}"
        case frozenset() | set():
            return "{" + ", ".join(sorted(told(v) for v in value)) + "}"
        case _ if dataclasses.is_dataclass(value) and not isinstance(value, type):
            return _record(value)
        case Iterable():
            return "[" + ", ".join(told(v) for v in value) + "]"
    return repr(value)


def _record(value: Any) -> str:
    said = []
    for f in dataclasses.fields(value):
        mine = getattr(value, f.name)
        usual = f.default_factory() if callable(f.default_factory) else f.default
        if mine != usual:
            said.append(f"{f.name}={told(mine)}")
    return f"{type(value).__name__}({', '.join(said)})"


def plan(made: Plan) -> Lines:
    """Everything a plan says."""
    yield f"{made.verb.value} of {made.subject_id}: {' '.join(made.summary)}"
    for caution in made.cautions:
        blocks = f" blocks {caution.blocks}" if caution.blocks else ""
        yield f"  ! {caution.code}{blocks}: {caution.text}"
    for step in made.steps:
        yield f"  {of_step(step)}"
    for stay in made.stays:
        yield f"  = {stay.application} {stay.item}: {stay.reason}"
    for back in made.fidelity:
        yield f"  {'+' if back.comes_back else '-'} {back.what}: {back.why}"


def of_step(step: PlannedStep) -> str:
    where = f"{step.application_id}/{step.account_id}"
    item = f" {step.item}" if step.item else ""
    origin = f" by {told(step.origin)}" if step.origin else ""
    said = f" with {told(step.arguments)[10:-1]}" if step.arguments.document() else ""
    final = " FOR GOOD" if step.irreversible else ""
    word = ACTIONS[step.action].words.does
    return (
        f"[{step.in_phase.value}] {where} {word}{item}: {step.before} → {step.after}"
        f", because {step.reason}{origin}{said}{final}"
    )


def tried(call: Callable[[], Any]) -> str:
    """What a call gives, or how it is refused."""
    try:
        return told(call())
    except YugumError as error:
        place = f" at {error.place}" if error.place else ""
        return f"{error.code}{place}: {error.message} → {error.remedy}"


def tried_plan(call: Callable[[], Plan]) -> Lines:
    try:
        yield from plan(call())
    except YugumError as error:
        place = f" at {error.place}" if error.place else ""
        yield f"  {error.code}{place}: {error.message} → {error.remedy}"
