"""A rules file (YAML) into a document, with every mistake's line, column and remedy."""

from __future__ import annotations

import copy
import difflib
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import yaml
from pydantic import BaseModel, ValidationError

from yugum.core.roles import Rules
from yugum.wire.rule_names import Known, RuleProblem, dotted, unknown_names
from yugum.wire.rulebook import Place, problems_in, rules_from
from yugum.wire.rules import RulesDocument

LONGEST = 1_000_000
MOST = 200_000
MESSAGES = {
    "missing": ("This field is missing.", "Add it."),
    "string_type": ("A text is expected here.", "Put it in quotation marks."),
    "int_type": ("A whole number is expected here.", "Write digits only, such as 14."),
    "int_from_float": ("A whole number is expected here.", "Write digits only, such as 14."),
    "float_parsing": ("A number is expected here.", "Write digits only, such as 72."),
    "list_type": ("A list is expected here.", "Begin each line with a dash, or write [one, two]."),
    "dict_type": ("Names with values are expected here.", "Write one 'name: value' a line."),
    "model_type": ("Names with values are expected here.", "Write one 'name: value' a line."),
}


@dataclass(slots=True)
class _Read:
    """A YAML tree as data, with where each value and key stands."""

    values: dict[Place, tuple[int, int]] = field(default_factory=dict)
    keys: dict[Place, tuple[int, int]] = field(default_factory=dict)
    problems: list[RuleProblem] = field(default_factory=list)
    size: int = 0
    scalars: yaml.SafeLoader = field(default_factory=lambda: yaml.SafeLoader(""))

    def data(self, node: yaml.Node, place: Place = ()) -> Any:
        self.size += 1
        if self.size > MOST:  # a few lines of aliases of aliases are billions of values
            raise yaml.YAMLError(f"it holds more than {MOST} values")
        self.values[place] = (node.start_mark.line + 1, node.start_mark.column + 1)
        if isinstance(node, yaml.MappingNode):
            return self._mapping(node, place)
        if isinstance(node, yaml.SequenceNode):
            return [self.data(n, (*place, i)) for i, n in enumerate(node.value)]
        try:
            return self.scalars.construct_object(node)
        except (ValueError, OverflowError):  # a thirteenth month, for example
            text = f"'{node.value}' is not a value that there is."
            remedy = "Correct it, or put it in quotation marks if it is a text."
            self.problems.append(RuleProblem(*self.values[place], dotted(place), text, remedy))
            return str(node.value)

    def _mapping(self, node: yaml.MappingNode, place: Place) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for key_node, value_node in node.value:
            key = str(key_node.value)
            at = (key_node.start_mark.line + 1, key_node.start_mark.column + 1)
            if key in found:
                text = f"'{key}' stands here a second time."
                self.problems.append(
                    RuleProblem(*at, dotted((*place, key)), text, "Bring the two together.")
                )
                continue
            self.keys[(*place, key)] = at
            found[key] = self.data(value_node, (*place, key))
        return found

    def position(self, place: Place, *, of_key: bool = False) -> tuple[int, int]:
        """Where a place stands, or the nearest part of it that is in the file."""
        if of_key and place in self.keys:
            return self.keys[place]
        for length in range(len(place), -1, -1):
            if place[:length] in self.values:
                return self.values[place[:length]]
        return (1, 1)


def read_rules(
    text: str, known: Known | None = None
) -> tuple[RulesDocument | None, list[RuleProblem]]:
    """The document in a rules file and all its mistakes, in the order of the lines.

    With mistakes of form the document is None; the others are found as far as they can be.
    """
    document, problems = _read_rules(text, known)
    return document, list(problems)


@lru_cache(maxsize=4)
def _read_rules(
    text: str, known: Known | None
) -> tuple[RulesDocument | None, Sequence[RuleProblem]]:
    """The same text is checked, tried, tried on some and adopted: it is read once."""
    if len(text) > LONGEST:
        return None, [RuleProblem(1, 1, "", "The file is longer than a million characters.")]
    read = _Read()
    try:
        node = yaml.compose(text, Loader=yaml.CSafeLoader)
        data = read.data(node) if node is not None else {}
    except yaml.YAMLError as error:
        return None, [_syntax(error)]
    except RecursionError:
        return None, [RuleProblem(1, 1, "", "The file is nested too deeply.")]
    problems = list(read.problems)
    document: RulesDocument | None = None
    sound: RulesDocument | None
    try:
        sound = document = RulesDocument.model_validate(data)
    except ValidationError as error:
        problems += [_mistake(read, e, data) for e in error.errors()]
        sound = _without_mistakes(data, error)
    if sound is not None:
        for place, problem in problems_in(sound):
            at = read.position(place)
            problems.append(RuleProblem(*at, dotted(place), problem.message, problem.remedy))
        if known is not None:
            problems += unknown_names(read, sound, known)
    if not problems and document is not None:
        return document, []
    return None, sorted(set(problems), key=lambda p: (p.line, p.column, p.message))


@lru_cache(maxsize=4)
def rules_in(text: str, known: Known | None = None) -> Rules | None:
    """The core's rules in a sound file, as version 0; None when it has mistakes."""
    document, _ = _read_rules(text, known)
    return None if document is None else rules_from(document, 0)


def _syntax(error: yaml.YAMLError) -> RuleProblem:
    mark = getattr(error, "problem_mark", None)
    line, column = (mark.line + 1, mark.column + 1) if mark else (1, 1)
    what = getattr(error, "problem", None) or str(error).split("\n")[0]
    return RuleProblem(
        line, column, "", f"This is not YAML: {what}.", "Check indentation, colons and quotes."
    )


def _mistake(read: _Read, error: Mapping[str, Any], data: Any) -> RuleProblem:
    place = tuple(p for p in error["loc"] if p != "[key]")
    kind = str(error["type"])
    if kind == "extra_forbidden":
        fields = _fields_at(place[:-1])
        at = read.position(place, of_key=True)
        close = difflib.get_close_matches(str(place[-1]), fields, n=1)
        remedy = f"Did you mean '{close[0]}'?" if close else f"Use one of: {', '.join(fields)}."
        return RuleProblem(*at, dotted(place), f"'{place[-1]}' is not known here.", remedy)
    at = read.position(place)
    if kind == "missing":
        at = read.keys.get(place[:-1], at)
        name = place[-1]
        return RuleProblem(*at, dotted(place), f"'{name}' is missing.", f"Add {name}.")
    message, remedy = MESSAGES.get(kind, (str(error["msg"]) + ".", ""))
    if kind in ("literal_error", "enum"):
        given = _value_at(data, place)
        allowed = re.findall(r"'([^']+)'", str(error["ctx"]["expected"]))
        close = difflib.get_close_matches(str(given), allowed, n=1)
        message = f"'{given}' is not possible here."
        remedy = f"Use one of: {', '.join(allowed)}."
        if close:
            remedy = f"Did you mean '{close[0]}'?"
    return RuleProblem(*at, dotted(place), message, remedy)


def _value_at(data: Any, place: Place) -> Any:
    for part in place:
        try:
            data = data[part]
        except (KeyError, IndexError, TypeError):
            return ""
    return data


def _fields_at(place: Place) -> list[str]:
    """The names a mapping at a place may have, by the document's own models."""
    model: Any = RulesDocument
    for part in place:
        fields = getattr(model, "model_fields", None)
        if fields is not None and part in fields:
            model = _inner(fields[part].annotation)
        # a name chosen by the organisation, or a place in a list: the model stays
    return list(getattr(model, "model_fields", {}))


def _inner(annotation: Any) -> Any:
    """The model within ``list[Model]``, ``dict[Name, Model]`` or ``Model``."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation
    for part in reversed(getattr(annotation, "__args__", ())):
        found = _inner(part)
        if found is not None:
            return found
    return None


def _without_mistakes(data: Any, error: ValidationError) -> RulesDocument | None:
    """What can be read when the mistakes are taken out, to go on looking in the rest.

    First only the faulty values go; what then still has a mistake goes with the entry it is in.
    """
    if not isinstance(data, dict):
        return None
    kept = copy.deepcopy(data)
    for depth in (None, 2, 1):
        for found in sorted(error.errors(), key=lambda e: str(e["loc"]), reverse=True):
            place = tuple(p for p in found["loc"] if p != "[key]")[:depth]
            # Where something is missing, what lacks it goes; then there is nothing to go astray.
            _take_out(kept, place[:-1] if found["type"] == "missing" else place)
        try:
            return RulesDocument.model_validate(kept)
        except ValidationError as again:
            error = again
    return None


def _take_out(data: Any, place: Place) -> None:
    holder = data
    if not place:
        return
    for part in place[:-1]:
        try:
            holder = holder[part]
        except (KeyError, IndexError, TypeError):
            return
    if isinstance(holder, dict):
        holder.pop(place[-1], None)
    elif isinstance(holder, list) and isinstance(place[-1], int) and place[-1] < len(holder):
        # The others keep their places, by which a mistake in them is found again.
        holder[place[-1]] = holder[place[-1] - 1] if place[-1] else holder[-1]
