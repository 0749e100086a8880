"""Puts faults into the core, one at a time, and counts how many the unit and property tests notice.

The faults are mutmut's, on everything but literals of text; of each only the tests that run its lines
are asked, in a process of its own that imports the faulty module instead of the true one.
"""

from __future__ import annotations

import importlib
import importlib.abc
import importlib.util
import json
import os
import random
import re
import signal
import sys
import time
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from importlib.machinery import ModuleSpec, SourceFileLoader
from pathlib import Path
from types import CodeType
from typing import Any

import click
import libcst as cst
import pytest
from libcst.metadata import MetadataWrapper, PositionProvider
from mutmut.mutation.file_mutation import MutationVisitor
from mutmut.mutation.mutators import mutation_operators
from mutmut.mutation.pragma_handling import IgnoredCode

ROOT = Path(__file__).parents[1]
CORE = ROOT / "src/yugum/core"
TESTS = ("tests/unit", "tests/property")
ABOUT_TEXT = "tests/unit/test_structure.py"
"""It reads the source as it stands, and would notice nothing of what a fault does."""
OF_ALL = "tests/unit/test_defaults.py"
"""It looks at what every module says when it is imported."""
NOTED = {
    "planning": ("planning", "holdings", "desired", "leaving", "closing", "drafts", "plans"),
    "undo": ("undo", "returns", "reverts", "fidelity"),
    "actions": ("actions/",),
    "obligations": ("obligations", "windows"),
}
SECONDS = 60
SPARE = 10.0
STRIDE = 50


@dataclass(frozen=True, slots=True)
class Fault:
    """One change of one module: lines from 1, ``index`` among those of the module."""

    module: str
    path: Path
    index: int
    first: int
    last: int
    before: str
    after: str

    def told(self) -> str:
        place = self.path.relative_to(CORE)
        change = f"{_short(self.before)}  →  {_short(self.after)}"
        return f"{place}:{self.first}  {change}"


@dataclass(slots=True)
class Source:
    """A module with every fault that can be put into it."""

    module: str
    path: Path
    tree: cst.Module
    nodes: list[tuple[cst.CSTNode, cst.CSTNode]] = field(default_factory=list)
    faults: list[Fault] = field(default_factory=list)

    def with_fault(self, fault: Fault) -> str:
        before, after = self.nodes[fault.index]
        changed = self.tree.deep_replace(before, after)
        assert isinstance(changed, cst.Module)
        return changed.code


class Visitor(MutationVisitor):
    """As mutmut goes through a module, but into decorated functions too: no function is copied here."""

    def __init__(self) -> None:
        super().__init__(mutation_operators, IgnoredCode(set(), set(), set()))
        self.lines: list[tuple[int, int]] = []

    def _skip_node_and_children(self, node: cst.CSTNode) -> bool:
        if isinstance(node, cst.FunctionDef):
            return False
        return bool(super()._skip_node_and_children(node))

    def _create_mutations(self, node: cst.CSTNode) -> None:
        if isinstance(node, cst.BaseString):
            return
        super()._create_mutations(node)
        place = self.get_metadata(PositionProvider, node, None)
        span = (place.start.line, place.end.line) if place else self.lines[-1]
        self.lines += [span] * (len(self.mutations) - len(self.lines))


def source_of(path: Path) -> Source:
    parts = path.relative_to(ROOT / "src").with_suffix("").parts
    module = ".".join(parts[:-1] if parts[-1] == "__init__" else parts)
    visitor = Visitor()
    tree = MetadataWrapper(cst.parse_module(path.read_text())).visit(visitor)
    source = Source(module, path, tree)
    for mutation, (first, last) in zip(visitor.mutations, visitor.lines, strict=True):
        before, after = mutation.original_node, mutation.mutated_node
        shown = (tree.code_for_node(before), tree.code_for_node(after))
        if shown[0] == shown[1]:
            continue
        source.faults.append(Fault(module, path, len(source.nodes), first, last, *shown))
        source.nodes.append((before, after))
    return source


def _short(code: str) -> str:
    return re.sub(r"\s+", " ", code).strip()[:70]


def drawn(sources: Sequence[Source], count: int, seed: int) -> list[Fault]:
    """Faults of every module, as many as its share; the same for the same seed."""
    chance = random.Random(seed)
    total = sum(len(s.faults) for s in sources)
    chosen: list[Fault] = []
    for source in sources:
        share = max(1, round(count * len(source.faults) / total))
        chosen += chance.sample(source.faults, min(share, len(source.faults)))
    chance.shuffle(chosen)
    return chosen[:count]


# --- which tests run which lines ----------------------------------------------------------------


class Watch:
    """A plugin of pytest: which test runs which lines, and how long it takes."""

    def __init__(self, coverage: Any) -> None:
        self._coverage = coverage
        self.took: dict[str, float] = {}

    @pytest.hookimpl(hookwrapper=True)
    def pytest_runtest_protocol(self, item: pytest.Item) -> Iterator[None]:
        self._coverage.switch_context(item.nodeid)
        began = time.perf_counter()
        yield
        self.took[item.nodeid] = time.perf_counter() - began
        self._coverage.switch_context("")


@dataclass(slots=True)
class Known:
    """Tests by line of each file, how long each takes, and what they import of others."""

    by_line: dict[str, dict[int, list[str]]]
    took: dict[str, float]
    imports: list[str]

    def asked(self, fault: Fault) -> list[str]:
        """The tests that run the fault, the quickest first; for one at import its module's, or all."""
        lines = self.by_line.get(str(fault.path), {})
        found = {t for n in range(fault.first, fault.last + 1) for t in lines.get(n, ())}
        if "" in found:
            found = {t for tests in lines.values() for t in tests} - {""} or set(self.took)
            found |= {t for t in self.took if t.startswith(OF_ALL)}
        return sorted(found - {""}, key=lambda t: self.took.get(t, 0.0))


def watched(into: Path) -> Known:
    """Every test once, with what it runs."""
    child = os.fork()
    if child == 0:
        _alone()
        import coverage

        cov = coverage.Coverage(data_file=None, source=[str(CORE)], config_file=False)
        watch = Watch(cov)
        cov.start()
        code = pytest.main(_options(*TESTS, "--deselect", ABOUT_TEXT), plugins=[watch])
        cov.stop()
        data = cov.get_data()
        by_line = {f: data.contexts_by_lineno(f) for f in data.measured_files()}
        others = sorted({m for m in sys.modules if m.split(".")[0] not in ("yugum", "tests")})
        into.write_text(json.dumps([by_line, watch.took, others]))
        os._exit(int(code))
    _, status = os.waitpid(child, 0)
    if status:
        raise click.ClickException("The tests fail without any fault.")
    by_line, took, others = json.loads(into.read_text())
    numbered = {f: {int(n): tests for n, tests in lines.items()} for f, lines in by_line.items()}
    return Known(numbered, took, others)


def _options(*words: str) -> list[str]:
    warm = "ignore::pytest.PytestAssertRewriteWarning"  # what is at hand was imported before pytest
    return [*words, "--noconftest", "-x", "-q", "-p", "no:playwright", "-W", warm]


def _alone() -> None:
    """A child says nothing, and draws the same examples every time."""
    quiet = os.open(os.devnull, os.O_WRONLY)
    os.dup2(quiet, 1)
    os.dup2(quiet, 2)
    from hypothesis import HealthCheck, Phase, settings

    settings.register_profile(
        "mutants",
        derandomize=True,
        database=None,
        deadline=None,
        phases=[Phase.explicit, Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    settings.load_profile("mutants")


# --- one fault ------------------------------------------------------------------------------------


class Faulty(SourceFileLoader):
    """Loads the text it is given instead of the file's."""

    text = ""

    def get_code(self, fullname: str) -> CodeType:  # noqa: ARG002 - the loader is made for one module
        return compile(self.text, self.path, "exec", dont_inherit=True)


class Finder(importlib.abc.MetaPathFinder):
    def __init__(self, fault: Fault, text: str) -> None:
        self._fault = fault
        self._text = text

    def find_spec(
        self,
        fullname: str,
        path: object,  # noqa: ARG002 - there is one of the name
        target: object = None,  # noqa: ARG002
    ) -> ModuleSpec | None:
        if fullname != self._fault.module:
            return None
        place = str(self._fault.path)
        loader = Faulty(fullname, place)
        loader.text = self._text
        inside = [str(self._fault.path.parent)] if self._fault.path.name == "__init__.py" else None
        return importlib.util.spec_from_file_location(
            fullname, place, loader=loader, submodule_search_locations=inside
        )


class Ordered:
    """A plugin of pytest: only these tests, in this order."""

    def __init__(self, tests: Sequence[str]) -> None:
        self._place = {t: n for n, t in enumerate(tests)}

    def pytest_collection_modifyitems(self, items: list[pytest.Item]) -> None:
        chosen = [i for i in items if i.nodeid in self._place]
        items[:] = sorted(chosen, key=lambda i: self._place[i.nodeid])


def noticed(fault: Fault, source: Source, tests: Sequence[str]) -> int:
    """Runs in a child: what pytest came to, 0 when every test passes."""
    _alone()
    sys.meta_path.insert(0, Finder(fault, source.with_fault(fault)))
    files = sorted({t.split("::")[0] for t in tests})
    return int(pytest.main(_options(*files), plugins=[Ordered(tests)]))


@dataclass(slots=True)
class Run:
    """Faults on several processes; ``outcome`` is killed, survived, unasked or slow."""

    known: Known
    sources: Mapping[str, Source]
    jobs: int
    outcome: dict[Fault, str] = field(default_factory=dict)

    def run(self, faults: Sequence[Fault]) -> None:
        waiting, began = list(reversed(faults)), time.monotonic()
        running: dict[int, tuple[Fault, float]] = {}
        told_of = 0
        while waiting or running:
            while waiting and len(running) < self.jobs:
                fault = waiting.pop()
                tests = self.known.asked(fault)
                if not tests:
                    self._over(fault, "unasked")
                    continue
                limit = SPARE + min(4 * sum(self.known.took.get(t, 0) for t in tests), SECONDS)
                running[self._start(fault, tests)] = (fault, time.monotonic() + limit)
            self._reap(running)
            if len(self.outcome) >= told_of + STRIDE:
                told_of = len(self.outcome)
                left = (time.monotonic() - began) / told_of * (len(faults) - told_of) / 60
                click.echo(f"… {told_of} of {len(faults)}, {left:.0f} min to go", err=True)

    def _start(self, fault: Fault, tests: Sequence[str]) -> int:
        child = os.fork()
        if child == 0:
            try:
                os.setpgid(0, 0)
                code = noticed(fault, self.sources[fault.module], tests)
            except BaseException:  # noqa: BLE001 - a fault may do anything; it is noticed
                code = 1
            os._exit(code)
        return child

    def _reap(self, running: dict[int, tuple[Fault, float]]) -> None:
        for child, (fault, until) in list(running.items()):
            done, status = os.waitpid(child, os.WNOHANG)
            if done:
                del running[child]
                self._over(fault, "killed" if status else "survived")
            elif time.monotonic() > until:
                os.kill(child, signal.SIGKILL)
                os.waitpid(child, 0)
                del running[child]
                self._over(fault, "slow")
        time.sleep(0.01)

    def _over(self, fault: Fault, how: str) -> None:
        self.outcome[fault] = how
        if how != "killed":
            click.echo(f"{how:9} {fault.told()}")


def told(outcome: Mapping[Fault, str]) -> Iterator[str]:
    """Killed of how many: of each module, of what must be seen best, and of all."""
    counted: dict[str, Counter[bool]] = defaultdict(Counter)
    for fault, how in outcome.items():
        counted[str(fault.path.relative_to(CORE))][how == "killed"] += 1
    for place, count in sorted(counted.items()):
        yield f"  {place}: {count[True]} of {count.total()}"
    for name, places in NOTED.items():
        mine = Counter[bool]()
        for place, count in counted.items():
            if place.startswith(tuple(p if p.endswith("/") else f"{p}.py" for p in places)):
                mine += count
        if mine.total():
            share = 100 * mine[True] / mine.total()
            yield f"{name}: {mine[True]} of {mine.total()} killed ({share:.1f} %)"
    killed = sum(how == "killed" for how in outcome.values())
    yield f"core: {killed} of {len(outcome)} killed"


@click.command()
@click.option("--seed", type=int, required=True, help="Which faults; the same for the same seed.")
@click.option("--faults", "count", type=click.IntRange(1), default=1000)
@click.option("--only", default="", help="Modules whose path begins so, for example actions/.")
@click.option("--jobs", type=click.IntRange(1), default=os.cpu_count() or 1)
def main(seed: int, count: int, only: str, jobs: int) -> None:
    """Put faults into the core and count how many unit and property tests notice."""
    os.chdir(ROOT)
    sys.path.insert(0, str(ROOT))
    paths = sorted(p for p in CORE.rglob("*.py") if str(p.relative_to(CORE)).startswith(only))
    known = watched(ROOT / ".mutants.json")
    for name in known.imports:
        try:
            importlib.import_module(name)
        except Exception:  # noqa: BLE001, S112 - only to have it at hand in every child
            continue
    sources = {s.module: s for s in map(source_of, paths)}
    faults = drawn(list(sources.values()), count, seed)
    every = sum(len(s.faults) for s in sources.values())
    click.echo(f"{len(faults)} of {every} faults in {len(sources)} modules, seed {seed}")
    run = Run(known, sources, jobs)
    run.run(faults)
    for line in told(run.outcome):
        click.echo(line)


if __name__ == "__main__":
    main()
