"""What is not said is of its type, and what is kept as JSON is read back as it was."""

from __future__ import annotations

import dataclasses
import importlib
import inspect
import pkgutil
import typing
from collections.abc import Iterator
from typing import Any

import msgspec
import pydantic
import pytest

import yugum.core
from tests.book import scene
from yugum.core.accounts import AccountState
from yugum.core.actions import ActionSpec, arguments_from
from yugum.core.actions.registry import ACTIONS
from yugum.core.decisions import Origin, Payload, payload_from
from yugum.core.documents import full, sparse
from yugum.core.planning import plan_subject
from yugum.core.plans import Plan, notes_from, step_document, step_from
from yugum.core.verbs import Verb

LOOSE = pydantic.ConfigDict(arbitrary_types_allowed=True)


def dataclasses_of_the_core() -> Iterator[type]:
    for found in pkgutil.walk_packages(yugum.core.__path__, "yugum.core."):
        module = importlib.import_module(found.name)
        for thing in vars(module).values():
            mine = getattr(thing, "__module__", "") == module.__name__
            if mine and inspect.isclass(thing) and dataclasses.is_dataclass(thing):
                yield thing


def fits(value: object, hint: Any) -> bool:
    if isinstance(hint, type) and dataclasses.is_dataclass(hint):
        return isinstance(value, hint)
    try:
        pydantic.TypeAdapter(hint, config=LOOSE).validate_python(value, strict=True)
    except pydantic.errors.PydanticUserError:  # one with a configuration of its own
        return True
    except pydantic.ValidationError:
        return False
    return True


@pytest.mark.parametrize("kind", dataclasses_of_the_core(), ids=lambda k: k.__qualname__)
def test_what_is_not_said_is_of_its_type(kind: Any) -> None:
    hints = typing.get_type_hints(kind, vars(importlib.import_module(kind.__module__)))
    for f in dataclasses.fields(kind):
        made = f.default
        if f.default_factory is not dataclasses.MISSING:
            made = f.default_factory()
        if made is not dataclasses.MISSING:
            assert fits(made, hints[f.name]), f"{f.name} is {made!r}"


@pytest.mark.parametrize("spec", ACTIONS.values(), ids=lambda s: s.action.value)
def test_what_an_action_says_of_itself_is_of_its_type(spec: ActionSpec) -> None:
    flags = ("irreversible", "barred_by_hold", "adds", "takes", "gives", "lists_assets")
    for name in (*flags, "readable", "told_until"):
        assert type(getattr(spec, name)) is bool, name
    assert type(spec.words.first) is bool
    assert spec.seats in (-1, 0, 1)


def planned() -> Iterator[Plan]:
    """Plans with nearly everything that a step can be told."""
    for name, who in scene.PEOPLE.items():
        for state in (AccountState.ACTIVE, AccountState.DELETED):
            whose = scene.subject(who, *scene.everywhere(state), successor=scene.HEIRS)
            verb = Verb.LEAVER if "left" in name else Verb.JOINER
            yield plan_subject(whose, scene.world(), scene.NOW, verb)


def test_plans_are_read_back_as_they_were() -> None:
    for plan in planned():
        for step in plan.steps:
            kept = msgspec.json.decode(msgspec.json.encode(step_document(step)))
            assert step_from(kept) == dataclasses.replace(step, phase=step.in_phase)
            assert arguments_from(kept["arguments"]) == step.arguments
        assert notes_from(msgspec.json.decode(msgspec.json.encode(plan.notes))) == plan.notes
        assert (plan.notes.summary, plan.notes.stays) == (plan.summary, plan.stays)
        assert (plan.notes.cautions, plan.notes.fidelity) == (plan.cautions, plan.fidelity)


def test_what_is_left_out_of_a_document_is_what_it_is_anyway() -> None:
    payload = Payload(application="crew", names=("a",))
    assert sparse(payload) == {"application": "crew", "names": ("a",)}
    assert set(full(payload)) == {f.name for f in dataclasses.fields(Payload)}
    for one in (payload, Payload(), Payload(person="p1", role="Deck")):
        assert payload_from(one.document()) == one
    for origin in (s.origin for plan in planned() for s in plan.steps):
        assert origin is None or msgspec.convert(full(origin), Origin) == origin


def test_the_same_digest_means_the_same_steps() -> None:
    seen: dict[str, tuple[object, ...]] = {}
    for plan in planned():
        steps = tuple(tuple(sorted(step_document(s).items(), key=str)) for s in plan.steps)
        assert seen.setdefault(plan.digest, steps) == steps
    assert len(seen) > 10
