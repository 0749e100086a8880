"""Rules and roles: the versions, checking and trying a candidate, who gets what and why."""

from __future__ import annotations

from functools import cache
from typing import Annotated

from fastapi import APIRouter, Path, Query

from yugum.api.auth import Acting, Administrator, Use, Viewer
from yugum.api.idempotency import NO_EFFECT, IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OneLine
from yugum.api.shapes import page_of, shape
from yugum.api.strict import StrictRoute
from yugum.core.names import NameFields
from yugum.core.people import full_name
from yugum.ports.rules import RulesVersion
from yugum.wire import trials as wt
from yugum.wire.common import Document, Page, as_dataclass
from yugum.wire.rules import RulesDocument

router = APIRouter(prefix="/rules", tags=["rules"], route_class=IdempotentRoute)
roles = APIRouter(prefix="/roles", tags=["roles"], route_class=StrictRoute)
names = APIRouter(prefix="/names", tags=["people"], route_class=StrictRoute)


@router.get("", operation_id="rules.show")
async def show_rules(use: Use, _: Viewer) -> wt.RulesView:
    """The rules in force, as text and as read."""
    return _view(await use.rules.current())


def _view(version: RulesVersion | None) -> wt.RulesView:
    """A version as it is shown; version 0 is no rules at all."""
    if version is None:
        return wt.RulesView(version=0, text="", document=RulesDocument())
    document = RulesDocument.model_validate_json(version.document)
    return wt.RulesView(version=version.version, text=version.text, document=document)


@router.get("/schema", operation_id="rules.schema")
async def rules_schema(_: Viewer) -> Document:
    """The JSON Schema (2020-12) of a rules file."""
    return _schema()


@cache
def _schema() -> Document:
    schema = RulesDocument.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}


@router.get("/versions", operation_id="rules.versions")
async def list_versions(
    use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wt.RulesVersion]:
    return page_of(await use.rules.history(cursor, limit), wt.RulesVersion.model_validate)


@router.get("/versions/{version}", operation_id="rules.version")
async def show_version(
    version: Annotated[int, Path(ge=0, le=2**31 - 1)], use: Use, _: Viewer
) -> wt.RulesView:
    return _view(await use.rules.version(version))


@router.post("/check", tags=[NO_EFFECT], operation_id="rules.check")
async def check_rules(body: wt.RulesText, use: Use, _: Viewer) -> list[wt.RuleProblem]:
    """Every mistake in a rules file, with line, column and remedy; an empty list when sound."""
    return [wt.RuleProblem.model_validate(p) for p in await use.rules.check(body.text)]


@router.post("/try", tags=[NO_EFFECT], operation_id="rules.try")
async def try_rules(body: wt.TryRules, use: Use, _: Acting) -> wt.TrialView:
    """Who would gain and lose what; nothing is changed."""
    trial = await use.rules.try_out(body.text, body.who)
    lines = sorted(trial.lines.values(), key=lambda x: (x.application_id, x.kind, x.item))
    return shape(wt.TrialView, trial, people=len(trial.people), lines=lines)


@router.post("", status_code=201, operation_id="rules.adopt")
async def adopt_rules(body: wt.AdoptRules, use: Use, operator: Administrator) -> wt.AdoptedRules:
    """Adopt rules as the next version; every name in them must exist."""
    made = await use.rules.adopt(
        body.text,
        operator.login,
        body.note,
        after=body.after,
        take_away=body.take_away,
        carry_out=body.carry_out,
    )
    return wt.AdoptedRules(version=made.version, rechecked=made.rechecked)


@roles.get("", operation_id="roles.list")
async def list_roles(use: Use, _: Viewer) -> list[wt.RoleView]:
    """The roles of the rules in force."""
    roles = _view(await use.rules.current()).document.roles
    return [shape(wt.RoleView, role, name=name) for name, role in roles.items()]


Name = Annotated[str, Query(min_length=1, max_length=200), *OneLine]


@roles.get("/compare", operation_id="roles.compare")
async def compare_roles(left: Name, right: Name, use: Use, _: Viewer) -> wt.Comparison:
    """What two roles give, line by line."""
    return wt.Comparison.model_validate(await use.comparing.roles(left, right))


@names.get("/compare", operation_id="names.compare")
async def compare_people(left: Name, right: Name, use: Use, _: Viewer) -> wt.Comparison:
    """What two people hold, line by line, with what comes from roles and what is an exception."""
    return wt.Comparison.model_validate(await use.comparing.people(left, right))


@names.get("/explain", operation_id="names.explain")
async def explain(who: Name, use: Use, _: Viewer) -> wt.Explanation:
    """What somebody should have, has, and why."""
    found = await use.rules.explain(who)
    return shape(wt.Explanation, found, id=found.person.id, name=full_name(found.person))


@names.post("/suggest", operation_id="names.suggest")
async def suggest_names(body: wt.SuggestNames, use: Use, _: Viewer) -> wt.SuggestedNames:
    """A login, an address and a name for somebody new, with everything that was tried."""
    found, silent = await use.names.suggest(as_dataclass(body, NameFields))
    return wt.SuggestedNames(
        names=[wt.Suggestion.model_validate(s) for s in found], not_asked=silent
    )
