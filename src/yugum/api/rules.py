"""Rules and roles: the versions, checking and trying a candidate, who gets what and why."""

from __future__ import annotations

from dataclasses import asdict
from functools import cache
from typing import Annotated, Any

from fastapi import APIRouter, Query

from yugum.api.auth import Acting, Administrator, Use, Viewer
from yugum.api.idempotency import NO_EFFECT, IdempotentRoute
from yugum.api.people import Cursor, Limit
from yugum.api.shapes import page_of
from yugum.core.people import full_name
from yugum.wire import nouns as wn
from yugum.wire import trials as wt
from yugum.wire.common import Page
from yugum.wire.rules import RulesDocument

router = APIRouter(prefix="/rules", tags=["rules"], route_class=IdempotentRoute)
roles = APIRouter(prefix="/roles", tags=["roles"])
names = APIRouter(prefix="/names", tags=["people"])


@router.get("")
async def show_rules(use: Use, _: Viewer) -> wt.RulesView:
    """The rules in force, as text and as read."""
    return wt.RulesView.model_validate(await use.rules.current())


@router.get("/schema")
async def rules_schema(_: Viewer) -> dict[str, Any]:
    """The JSON Schema (2020-12) of a rules file."""
    return _schema()


@cache
def _schema() -> dict[str, Any]:
    schema = RulesDocument.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}


@router.get("/versions")
async def list_versions(
    use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wt.RulesVersion]:
    return page_of(await use.rules.history(cursor, limit), wt.RulesVersion.model_validate)


@router.get("/versions/{version}")
async def show_version(version: int, use: Use, _: Viewer) -> wt.RulesView:
    return wt.RulesView.model_validate(await use.rules.version(version))


@router.post("/check", tags=[NO_EFFECT])
async def check_rules(body: wt.RulesText, use: Use, _: Viewer) -> list[wt.RuleProblem]:
    """Every mistake in a rules file, with line, column and remedy; an empty list when sound."""
    return [wt.RuleProblem(**asdict(p)) for p in await use.rules.check(body.text)]


@router.post("/try", tags=[NO_EFFECT])
async def try_rules(body: wt.TryRules, use: Use, _: Acting) -> wt.TrialView:
    """Who would gain and lose what; nothing is changed."""
    trial = await use.rules.try_out(body.text, body.who)
    lines = sorted(trial.lines.values(), key=lambda x: (x.application_id, x.kind, x.item))
    return wt.TrialView(
        version=trial.version,
        looked_at=trial.looked_at,
        combinations=trial.combinations,
        people=len(trial.people),
        gained=trial.gained,
        lost=trial.lost,
        lines=[wt.TrialLine(**{**asdict(x), "roles": list(x.roles)}) for x in lines],
        short=trial.short,
        approvals=dict(trial.approvals),
        tasks=dict(trial.tasks),
    )


@router.post("", status_code=201)
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


@roles.get("")
async def list_roles(use: Use, _: Viewer) -> list[wn.RoleView]:
    document = (await use.rules.current())["document"]
    return [
        wn.RoleView(name=name, when=role["when"], gives=role["gives"])
        for name, role in document.get("roles", {}).items()
    ]


Name = Annotated[str, Query(min_length=1, max_length=200)]


@roles.get("/compare")
async def compare_roles(left: Name, right: Name, use: Use, _: Viewer) -> wt.Comparison:
    """What two roles give, line by line."""
    return wt.Comparison.model_validate(await use.comparing.roles(left, right))


@names.get("/compare")
async def compare_people(left: Name, right: Name, use: Use, _: Viewer) -> wt.Comparison:
    """What two people hold, line by line, with what comes from roles and what is an exception."""
    return wt.Comparison.model_validate(await use.comparing.people(left, right))


@names.get("/explain")
async def explain(who: Name, use: Use, _: Viewer) -> wt.Explanation:
    """What somebody should have, has, and why."""
    found = await use.rules.explain(who)
    person = found["person"]
    return wt.Explanation.model_validate(
        {**found, "id": person.id, "name": full_name(person)}, from_attributes=False
    )


@names.post("/suggest")
async def suggest_names(body: wt.SuggestNames, use: Use, _: Viewer) -> wt.SuggestedNames:
    """A login, an address and a name for somebody new, with everything that was tried."""
    fields = {k: v for k, v in body.model_dump().items() if v}
    found, silent = await use.namings.suggest(fields)
    return wt.SuggestedNames(
        names=[wt.Suggestion.model_validate(asdict(s)) for s in found], not_asked=silent
    )
