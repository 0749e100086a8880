"""Where somebody is named without owning it, and who is to stand there."""

from __future__ import annotations

from fastapi import APIRouter, Request

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.discretion import discreet
from yugum.api.idempotency import IdempotentRoute
from yugum.api.shapes import number
from yugum.core.people import full_name
from yugum.core.redirections import How
from yugum.engine.references import KeysAsked, Reference, ReferencesShown
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


@router.post("/keys", operation_id="people.replace_keys")
async def replace_keys(
    who: str, body: wr.ReplaceKeys, use: Use, operator: Acting, request: Request
) -> wr.KeysReplaced:
    """A new key, of whoever comes after, for each program that runs with one of somebody who is to leave; the old ones go on for a while."""
    asked = KeysAsked(
        days=body.days, reason=body.reason, reference=body.reference, places=tuple(body.places)
    )
    numbers, left = await use.references.replace_keys(who, asked, operator.login)
    return wr.KeysReplaced(dockets=[number(request, n) for n in numbers], left=left)


@router.post("/keys/{key_id}", operation_id="people.tell_key", status_code=204)
async def tell_key(who: str, key_id: str, use: Use, operator: Acting) -> None:
    """Have a new key that nobody has opened told of by another link."""
    await use.references.tell_anew(who, key_id, operator.login)


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
        replaced=[wr.ReplacedKeyRow.model_validate(k) for k in shown.replaced],
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
    if found is not None and found.lacks:
        why = found.lacks
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
        replaceable=mention.replaceable,
        effect=mention.effect,
        contact=mention.contact,
        why=why,
    )
