"""Groups inside groups: what somebody holds through another group, and by which path."""

from __future__ import annotations

from collections import deque
from collections.abc import Collection, Mapping, Sequence


def held_through(
    held: Collection[str], nested: Mapping[str, Sequence[str]]
) -> dict[str, list[tuple[str, ...]]]:
    """Every group held through others, with the ways that lead to it.

    ``held`` are the groups held directly, ``nested`` maps a group to those it is inside of. There is
    one way, the shortest, from each group held directly: it begins there, which is where it is
    cut, and all of them have to be cut. Groups held directly are not named again.
    """
    ways: dict[str, list[tuple[str, ...]]] = {}
    for name in sorted(held):
        for outer, path in _from(name, nested).items():
            if outer not in held:
                ways.setdefault(outer, []).append(path)
    return ways


def _from(name: str, nested: Mapping[str, Sequence[str]]) -> dict[str, tuple[str, ...]]:
    """The shortest path to each group that ``name`` is inside of; a circle ends."""
    paths: dict[str, tuple[str, ...]] = {name: (name,)}
    line = deque(paths)
    while line:
        inner = line.popleft()
        for outer in sorted(nested.get(inner, ())):
            if outer not in paths:
                paths[outer] = (*paths[inner], outer)
                line.append(outer)
    del paths[name]
    return paths
