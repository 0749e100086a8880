"""How the code is built: every type is told, closed sets are closed, nothing grows too long."""

from __future__ import annotations

import ast
import dataclasses
import enum
import importlib
import inspect
import pkgutil
import re
import typing
from collections.abc import Iterator, Mapping
from pathlib import Path
from types import ModuleType

import pydantic
import pytest

import yugum.core
import yugum.engine
import yugum.ports
import yugum.wire
from tests.proofs import patched, test_model, test_states
from yugum.core import documents, roles
from yugum.core.applications import Profile
from yugum.core.names import NameRules
from yugum.core.offsets import WorkingHours
from yugum.settings import Settings

SOURCE = Path(yugum.core.__file__).parents[1]
OPAQUE = {
    "yugum.core.documents.Json": "a value at the border, not yet read into its type",
    "yugum.core.documents.Document": "a JSON object at the border; only codecs look into it",
    "yugum.ports.audit.Event.payload": "what an event tells differs by event and is kept for ever",
    "yugum.ports.idempotency.KeptReply.reply": "any reply of the service, given again as it was",
}
"""What may be opaque, and why."""


def modules(package: ModuleType) -> Iterator[ModuleType]:
    yield package
    for found in pkgutil.walk_packages(package.__path__, f"{package.__name__}."):
        yield importlib.import_module(found.name)


def annotated(module: ModuleType) -> Iterator[tuple[str, object]]:
    """Every annotation of a module by name: functions, methods, fields and aliases."""
    for name, thing in vars(module).items():
        if getattr(thing, "__module__", None) == module.__name__:
            if inspect.isfunction(thing):
                yield from of_callable(f"{module.__name__}.{name}", thing)
            elif inspect.isclass(thing):
                yield from of_class(f"{module.__name__}.{name}", thing)
        elif typing.get_origin(thing) is not None and not name.startswith("_"):
            yield f"{module.__name__}.{name}", thing


def of_class(where: str, thing: type) -> Iterator[tuple[str, object]]:
    if not issubclass(thing, enum.Enum):
        for name, hint in hints(thing).items():
            yield f"{where}.{name}", hint
    for name, member in vars(thing).items():
        if isinstance(member, property):
            member = member.fget
        member = inspect.unwrap(getattr(member, "__func__", member))
        generated = name.startswith("__") and name != "__init__"
        made = name == "__init__" and dataclasses.is_dataclass(thing)
        if inspect.isfunction(member) and not (generated or made):
            yield from of_callable(f"{where}.{name}", member)


def of_callable(where: str, thing: typing.Callable[..., object]) -> Iterator[tuple[str, object]]:
    for name, hint in hints(thing).items():
        yield f"{where}({name})", hint


def hints(thing: type | typing.Callable[..., object]) -> dict[str, object]:
    """Annotations resolved, with the names that are imported for the type checker only."""
    module = importlib.import_module(thing.__module__)
    return inspect.get_annotations(thing, globals=known(module), eval_str=True)


def known(module: ModuleType) -> dict[str, object]:
    """A module's names, and those it imports under TYPE_CHECKING."""
    names: dict[str, object] = dict(vars(module))
    tree = ast.parse(Path(str(module.__file__)).read_text())
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom) and node.module and node.module != "_typeshed":
            source = importlib.import_module(node.module)
            for alias in node.names:
                names.setdefault(alias.asname or alias.name, getattr(source, alias.name, object))
    return names | {
        "DataclassInstance": int,
        "Json": documents.Json,
        "Document": documents.Document,
    }


def parts(hint: object) -> Iterator[object]:
    """A hint and everything it is made of."""
    yield hint
    if hint in (documents.Document, documents.Json):
        return
    for inner in typing.get_args(hint):
        if isinstance(inner, list):
            for one in inner:
                yield from parts(one)
        else:
            yield from parts(inner)


def is_mixed(hint: object) -> bool:
    """A mapping of texts to values that are not all of one kind."""
    origin, inner = typing.get_origin(hint), typing.get_args(hint)
    if origin not in (dict, Mapping, typing.get_origin(Mapping[str, int])) or len(inner) != 2:
        return False
    kinds = [k for k in typing.get_args(inner[1]) if k is not type(None)]
    union = typing.get_origin(inner[1]) in (typing.Union, type(int | str))
    return inner[0] is str and union and len(kinds) > 1


@pytest.mark.parametrize("package", [yugum.ports, yugum.core, yugum.engine])
def test_every_annotation_says_what_it_is(package: ModuleType) -> None:
    vague = []
    count = 0
    for module in modules(package):
        if module is documents:
            continue
        for where, hint in annotated(module):
            count += 1
            for part in parts(hint):
                if part in (documents.Document, documents.Json):
                    continue
                named = getattr(part, "__name__", "")
                if part in (typing.Any, object) or named in ("Row", "RowMapping") or is_mixed(part):
                    vague.append((where, part))
    assert count > 100, "the annotations were found at all"
    assert vague == []
    assert len(OPAQUE) <= 5


def fields_of_wire() -> Iterator[tuple[str, str, object]]:
    for module in modules(yugum.wire):
        for name, thing in vars(module).items():
            if (
                inspect.isclass(thing)
                and issubclass(thing, pydantic.BaseModel)
                and thing.__module__ == module.__name__
            ):
                for field, info in thing.model_fields.items():
                    yield f"{module.__name__}.{name}", field, info.annotation


CLOSED = re.compile(r"(^|_)(state|verb|phase|action|outcome|mode|trust|scope|how)$|(^|[^_])kind$")
OPEN_SETS = {
    "ConnectApplication.kind": "connectors are installed by whoever runs it",
    "ApplicationRow.kind": "the same",
    "DisconnectedRow.kind": "the same",
    "AccountLine.application_kind": "the same",
    "ComingLine.application_kind": "the same",
    "AuditEvent.action": "events are named noun.verb, and more come",
    "Facet.kind": "applications say what their things are",
    "Asset.kind": "the same",
    "HandoverRow.kind": "the same",
}


def test_states_verbs_and_kinds_are_closed_sets_on_the_wire() -> None:
    plain = []
    for where, field, hint in fields_of_wire():
        key = f"{where.rpartition('.')[2]}.{field}"
        if CLOSED.search(field) and key not in OPEN_SETS and str in set(parts(hint)):
            plain.append(key)
    assert plain == []


def source_files() -> list[Path]:
    return [p for p in SOURCE.rglob("*.py") if "migrations" not in p.parts]


def test_nothing_grows_too_long_and_each_noun_has_its_file() -> None:
    long_files = {
        str(p.relative_to(SOURCE)): n
        for p in source_files()
        if (n := len(p.read_text().splitlines())) > 400 and p.name != "tables.py"
    }
    assert long_files == {}
    long_functions = [
        (p.name, node.name)
        for p in source_files()
        for node in ast.walk(ast.parse(p.read_text()))
        if isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef))
        and (node.end_lineno or 0) - node.lineno + 1 > 60
    ]
    assert long_functions == []
    assert not [p for p in source_files() if p.name == "nouns.py"]
    for layer in ("api", "wire", "cli", "storage"):
        for noun in ("seats", "audit", "findings", "operators"):
            found = (SOURCE / layer / f"{noun}.py").exists()
            assert found, f"{layer} has no file for {noun}"


def test_the_api_opens_no_transaction_and_pours_no_body_into_a_mapping() -> None:
    for path in (SOURCE / "api").glob("*.py"):
        text = path.read_text()
        assert ".unit()" not in text, path.name
        assert not re.search(r"body\w*\.model_dump", text), path.name


SETTINGS = (
    Profile,
    roles.Approval,
    roles.Delivery,
    roles.Exclusion,
    roles.Given,
    roles.Notice,
    roles.OwnStep,
    roles.Procedure,
    roles.Role,
    roles.Rules,
    NameRules,
    WorkingHours,
    Settings,
)
"""What somebody can set: in a profile, in the rules, in the environment."""
ONLY_SHOWS = ("wire/", "cli/")


@pytest.mark.parametrize("kind", SETTINGS)
def test_there_is_no_setting_that_nobody_reads(kind: type) -> None:
    read: set[str] = set()
    for path in SOURCE.rglob("*.py"):
        place = path.relative_to(SOURCE).as_posix()
        if place.startswith(ONLY_SHOWS):
            continue
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Attribute) and isinstance(node.ctx, ast.Load):
                read.add(node.attr)
            elif place.startswith("storage/") and isinstance(node, ast.Constant):
                read |= set(re.findall(r"->>'(\w+)'", str(node.value)))
    said = getattr(kind, "model_fields", None) or [f.name for f in dataclasses.fields(kind)]
    assert set(said) - read == set(), "nobody reads it"


def test_faults_put_in_by_the_slow_proofs_are_of_this_code() -> None:
    edits = [
        *test_model.FAULTS.values(),
        *(e for some in test_states.MUTATIONS.values() for e in some),
    ]
    lost = [e for e in edits if patched.at(patched.SOURCE, e[0]).read_text().count(e[1]) != 1]
    assert not lost
