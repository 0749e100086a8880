"""Attributes of people and accounts: what is made of what, what fits, what is planned."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import pytest

from tests.builders import account, person, subject, world
from yugum.core.accounts import HoldingKind
from yugum.core.actions import Action
from yugum.core.approvals import all_asked, needing
from yugum.core.attributes import (
    NO_BOSS,
    Boss,
    Keep,
    Made,
    Mapped,
    OwnAttribute,
    OwnType,
    Shape,
    attributes_wanted,
    checked,
    made_of,
    recipes,
    values_of,
)
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.desired import Subject, Successor, World
from yugum.core.facts import difference, taken_back, with_fields
from yugum.core.guards import Surroundings, guard_last
from yugum.core.people import Person, folded
from yugum.core.planning import plan_subject
from yugum.core.verbs import Verb
from yugum.wire.rulebook import rules_from
from yugum.wire.rulefile import read_rules

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
WHO = person(
    given_name="Mara",
    family_name="Quill",
    title="Bosun",
    mail="mquill@morrow.example",
    groups="Rope team; Night watch",
    own=(("locker", "17b"),),
)
STEP = Mapped(Keep.IN_STEP)


@pytest.mark.parametrize(
    ("pattern", "made"),
    [
        ("{given} {family}", "Mara Quill"),
        ("{family:2}{given:1}", "QuM"),
        ("{middle} {family}", "Quill"),
        ("{given} {middle} {family}", "Mara Quill"),
        ("{mobile|phone|mail}", "mquill@morrow.example"),
        ("{name}, {title}, {division}", "Mara Quill, Bosun"),
        ("{division}", ""),
        ("locker {own.locker}", "locker 17b"),
        ("{own.other}", ""),
        ("as it is", "as it is"),
    ],
)
def test_what_is_empty_leaves_nothing(pattern: str, made: str) -> None:
    assert made_of(pattern, values_of(WHO)) == made


def test_an_application_says_what_it_takes_and_the_rules_where_it_does_not() -> None:
    assert Shape(5).problem("Bosun") == ""
    assert "at most 4 characters, 'Bosun' has 5" in Shape(4).problem("Bosun")
    assert Shape(values=("Deck", "Shore")).problem("deck") == ""
    assert Shape(values=("Deck", "Shore")).problem("") == ""
    assert "only Deck, Shore" in Shape(values=("Deck", "Shore")).problem("Kitchen")


@pytest.mark.parametrize(
    ("kind", "good", "bad"),
    [
        (OwnType.TEXT, "anything at all", None),
        (OwnType.NUMBER, "-12.5", "twelve"),
        (OwnType.DATE, "2031-03-07", "7.3.31"),
        (OwnType.YES_NO, "yes", "true"),
        (OwnType.ONE_OF, "a", "c"),
    ],
)
def test_ones_own_are_of_their_kind(kind: OwnType, good: str, bad: str | None) -> None:
    declared = {"x": OwnAttribute("x", kind, ("a", "b"))}
    assert checked(declared, "x", good) == checked(declared, "x", "") == ""
    assert bad is None or checked(declared, "x", bad)
    assert "declared are: x" in checked(declared, "y", good)


def test_fields_of_ones_own_change_and_are_taken_back_like_others() -> None:
    after = with_fields(WHO, {"own.locker": "4", "own.badge": "9", "groups": " A ;A; B "})
    was, becomes = difference(WHO, after)
    assert was == {"own.locker": "17b", "own.badge": "", "groups": "Rope team; Night watch"}
    assert becomes == {"own.locker": "4", "own.badge": "9", "groups": "A; B"}
    assert taken_back(after, was, becomes) == WHO
    assert folded(after)["own.badge"] == ("9",)
    assert folded(after)["groups"] == ("a", "b")


def known(mapped: Mapped = STEP, **attributes: Shape) -> World:
    """A world in which the crew application has some attributes."""
    base = world()
    app = replace(base.applications["crew"], attributes=attributes)
    rules = replace(base.rules, accounts={"crew": mapped})
    return replace(base, rules=rules, applications={**base.applications, "crew": app})


def whose(who: Person = WHO, **more: Any) -> Subject:
    return subject(person=replace(who, department="Deck"), **more)


def updates(subject: Subject, world: World) -> dict[str, str]:
    plan = plan_subject(subject, world, NOW, Verb.RECHECK)
    return {s.item: s.arguments.value for s in plan.steps if s.action is Action.UPDATE}


def test_only_what_is_kept_in_step_and_differs_is_planned() -> None:
    mine = account(settings={"title": "Deckhand", "userType": "x", "locale": "en"})
    once = {"locale": Made("{locale}", Keep.ONCE), "nickName": Made("")}
    there = known(
        Mapped(Keep.IN_STEP, named=once),
        title=Shape(),
        userType=Shape(),
        locale=Shape(),
        nickName=Shape(),
        displayName=Shape(),
    )
    expected = {"title": "Bosun", "userType": "", "displayName": "Mara Quill"}
    assert updates(whose(accounts=(mine,)), there) == expected
    assert updates(whose(accounts=(mine,)), known(Mapped(), title=Shape())) == {}


def test_what_does_not_fit_or_is_disputed_is_said_and_not_done() -> None:
    mine = account(settings={"title": "Deckhand"})
    for disputed, shape, code in (
        (frozenset[tuple[str, str]](), Shape(4), "does-not-fit"),
        (frozenset({(mine.id, "title")}), Shape(), "disputed"),
    ):
        one = whose(accounts=(mine,), disputed=disputed)
        plan = plan_subject(one, known(title=shape), NOW, Verb.RECHECK)
        assert not [s for s in plan.steps if s.action is Action.UPDATE]
        assert code in {c.code for c in plan.cautions}


def test_a_new_account_is_made_with_all_that_fits() -> None:
    there = known(Mapped(), title=Shape(3), displayName=Shape(), locale=Shape())
    plan = plan_subject(whose(), there, NOW, Verb.JOINER)
    made = next(s for s in plan.steps if s.action is Action.CREATE)
    assert made.arguments.attributes == {"displayName": "Mara Quill"}
    assert "does-not-fit" in {c.code for c in plan.cautions}


def test_a_manager_is_named_by_their_account_there_once_they_have_one() -> None:
    one = replace(WHO, manager_id="b1")
    boss = Boss(name="Bo Boss", user_name="bboss")
    shapes = {"manager": Shape(), "enterprise.manager": Shape(), "x": Shape()}
    mapped = Mapped(named={"x": Made("{manager_name}")})
    wanted = {n: v for n, v, _ in attributes_wanted(one, boss, recipes(shapes, mapped))}
    assert wanted == {"x": "Bo Boss"}
    there = replace(boss, login="bboss2", external_id="e9")
    wanted = {n: v for n, v, _ in attributes_wanted(one, there, recipes(shapes, mapped))}
    assert wanted == {"manager": "bboss2", "enterprise.manager": "e9", "x": "Bo Boss"}
    alone = {n: v for n, v, _ in attributes_wanted(WHO, NO_BOSS, recipes(shapes, mapped))}
    assert alone == {"manager": "", "enterprise.manager": "", "x": ""}
    manager = Successor(person=person(id="b1"), accounts={"crew": account(id="a9", login="bb")})
    mine = account(settings={"manager": "old"})
    led = whose(replace(WHO, manager_id="b1"), accounts=(mine,), manager=manager)
    assert updates(led, known(manager=Shape())) == {"manager": "bb"}


RULES = """
attributes:
  boat: {type: one_of, values: [day, open]}
accounts:
  crew:
    keep: in_step
    attributes:
      title: {outside: take_over}
      note: {of: "{own.boat} {family}", longest: 9}
roles:
  Sailors: {when: 'own.boat eq "open"', gives: [{application: crew}]}
"""


@pytest.mark.parametrize(
    ("old", "new", "place"),
    [
        ("values: [day, open]", "values: []", "attributes.boat.values"),
        ("own.boat} {fam", "own.ship} {fam", "accounts.crew.attributes.note.of"),
        ("{family}", "{family", "accounts.crew.attributes.note.of"),
        ("longest: 9", "outside: take_over", "accounts.crew.attributes.note.outside"),
        ("keep: in_step", "outside: take_over", "accounts.crew.outside"),
        ("keep: in_step", "keep: always", "accounts.crew.keep"),
        ("own.boat eq", "own.ship eq", "roles.Sailors.when"),
        ("roles:", "  radio: {attributes: {t: {of: '{title}', outside: take_over}}}\nroles:",
         "accounts.radio.attributes.t.outside"),
    ],
)  # fmt: skip
def test_mistakes_in_the_rules_are_told_by_place(old: str, new: str, place: str) -> None:
    sound, problems = read_rules(RULES)
    assert sound is not None, problems
    assert old in RULES
    found, problems = read_rules(RULES.replace(old, new, 1))
    assert found is None
    assert place in {p.place for p in problems}
    assert all(p.remedy for p in problems)


LEVELS = """
accounts:
  crew:
    levels:
      rank: {offers: [hand, mate, master], administrators: [master], approval: office}
    units:
      ships: [Gull, Tern, Skua]
roles:
  All: {when: userName pr, gives: [{application: crew, settings: {rank: hand, ships: Gull}}]}
  Deck: {when: department eq "Deck", gives: [{application: crew, settings: {rank: mate, ships: Tern}}]}
approvals: {office: {by: [manager]}}
"""


def ranked(item: str = "", value: str = "") -> tuple[Subject, World]:
    document, problems = read_rules(LEVELS)
    assert document is not None, problems
    rules = rules_from(document, 1)
    held = account(settings={"rank": "hand", "ships": "Gull"})
    more: dict[str, Any] = {}
    if item:
        said = Payload(application="crew", kind=HoldingKind.SETTING, item=item, value=value)
        how = DecisionKind.GRANT
        given = Decision(
            id="d", subject_id="p1", kind=how, payload=said, author="ops", reason="summer"
        )
        more["decisions"] = (given,)
    return subject(accounts=(held,), **more), replace(world(), rules=rules)


def test_the_highest_level_counts_and_units_come_together() -> None:
    who, where = ranked()
    made = {s.item: s.arguments.value for s in plan_subject(who, where, NOW, Verb.RECHECK).steps}
    assert (made["rank"], made["ships"]) == ("mate", "Gull, Tern")
    who, where = ranked(item="ships", value="Skua")
    made = {s.item: s.arguments.value for s in plan_subject(who, where, NOW, Verb.RECHECK).steps}
    assert made["ships"] == "Gull, Skua, Tern"
    who, where = ranked(item="rank", value="hand")  # by hand goes before roles, also downwards
    assert "rank" not in {s.item for s in plan_subject(who, where, NOW, Verb.RECHECK).steps}


def test_an_administrators_level_is_agreed_to_and_its_last_holder_guarded() -> None:
    who, where = ranked()
    plan = plan_subject(who, where, NOW, Verb.RECHECK)
    assert needing(Verb.RECHECK, plan.steps, where.rules) == {}
    who, where = ranked(item="rank", value="master")
    plan = plan_subject(who, where, NOW, Verb.RECHECK)
    about = needing(Verb.RECHECK, plan.steps, where.rules)
    assert about == {"office": (("crew", "update", "rank: master", ""),)}
    assert all_asked(plan.steps, where.rules) >= set(about["office"])
    last = replace(who, accounts=(account(settings={"rank": "master"}),), decisions=())
    lowered = plan_subject(last, where, NOW, Verb.RECHECK)
    for plan, around, found in (
        (lowered, Surroundings(), ["guard:last-administrator"]),
        (lowered, Surroundings(others={"crew": 1}), []),
        (replace(lowered, steps=()), Surroundings(), []),
    ):
        assert [c.code for c in guard_last(plan, last, where, around)] == found


@pytest.mark.parametrize(
    ("was", "wrong", "place"),
    [
        ("rank: mate", "rank: admiral", "roles.Deck.gives.0.settings.rank"),
        ("ships: Tern", "ships: 'Tern, Auk'", "roles.Deck.gives.0.settings.ships"),
        ("[master]", "[captain]", "accounts.crew.levels.rank.administrators"),
        ("approval: office", "approval: offices", "accounts.crew.levels.rank.approval"),
        ("[Gull, Tern, Skua]", "['Gull, Tern']", "accounts.crew.units.ships"),
        ("ships: [", "rank: [", "accounts.crew.levels.rank"),
    ],
)
def test_levels_and_units_that_are_none_are_refused(was: str, wrong: str, place: str) -> None:
    _, problems = read_rules(LEVELS.replace(was, wrong, 1))
    assert place in {p.place for p in problems}
