"""Where somebody is named without owning it, and who is to stand there."""

from __future__ import annotations

from fastapi import APIRouter

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.discretion import discreet
from yugum.api.idempotency import IdempotentRoute
from yugum.core.people import full_name
from yugum.core.redirections import How
from yugum.engine.references import Reference, ReferencesShown
from yugum.wire import references as wr

router = APIRouter(prefix="/people/{who}/references", tags=["people"], route_class=IdempotentRoute)
CANNOT_BE_CHANGED = "it is changed in the application itself"


@router.get("", operation_id="people.references")
async def show_references(who: str, use: Use, operator: Viewer) -> wr.ReferencesView:
    """Where somebody is named, looked for now, with who is to stand there when they leave."""
    view = _view(await use.references.show(who))
    return await discreet(use, operator, view, view.id)


@router.post("", operation_id="people.redirect")
async def redirect_references(who: str, use: Use, operator: Acting) -> wr.ReferencesView:
    """Put others where somebody who has left is still named, by a docket that begins at once."""
    view = _view(await use.references.redirect(who, operator.login))
    return await discreet(use, operator, view, view.id)


def _view(shown: ReferencesShown) -> wr.ReferencesView:
    person = shown.person
    return wr.ReferencesView(
        id=person.id,
        name=full_name(person),
        user_name=person.user_name,
        at=shown.at,
        rows=[_row(r) for r in shown.rows],
        keys=[
            wr.KeysRow(
                application_id=k.application.id,
                application_name=k.application.name,
                login=k.login,
                count=k.count,
            )
            for k in shown.keys
        ],
        silent=list(shown.silent),
        unsearched=list(shown.unsearched),
    )


def _row(row: Reference) -> wr.ReferenceRow:
    mention, found, application = row.mention, row.found, row.application
    choice = found.choice if found else None
    heir = choice.successor if choice else None
    why = choice.text if choice else "change it there"
    if row.how is How.BY_HAND and found is not None:
        why = CANNOT_BE_CHANGED
    return wr.ReferenceRow(
        application_id=application.id if application else None,
        application_name=application.name if application else "Yugum",
        key=mention.key,
        thing=mention.kind,
        place=mention.place,
        text=mention.text,
        after=found.text if found else "",
        how=row.how,
        ground=choice.ground if choice else None,
        to_id=heir.person.id if heir else None,
        to_name=full_name(heir.person) if heir else "",
        effect=mention.effect,
        contact=mention.contact,
        why=why,
    )
