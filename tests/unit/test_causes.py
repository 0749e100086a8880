"""Why dockets exist: what is written is read back, what earlier versions wrote too, and by lenient clients."""

from __future__ import annotations

from dataclasses import fields, replace
from datetime import UTC, datetime
from typing import Any

import msgspec
import pytest
from pydantic import ValidationError

from yugum.core.accounts import HoldingKind
from yugum.core.causes import (
    CAUSES,
    AccountCause,
    Cause,
    CredentialCause,
    GroupCause,
    KeysCause,
    LeaverCause,
    MoverCause,
    RevertCause,
    cause_document,
    cause_from,
)
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.documents import Document
from yugum.core.requests import PlanRequest
from yugum.core.verbs import Quick, Verb
from yugum.wire.common import LENIENT
from yugum.wire.plans import Prepared

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
WHOLE: dict[str, Any] = {
    "basis": "a date",
    "needs": ("board",),
    "approval": True,
    "urgent": True,
    "confidential": True,
    "request": PlanRequest(verb=Verb.LEAVER, who=("mquill",), left_out={"a/b": "why"}),
    "decisions": (
        Decision(
            id="d",
            subject_id="p1",
            kind=DecisionKind.DENY,
            payload=Payload(application="crew", kind=HoldingKind.ACCOUNT),
            ends=NOW,
        ),
    ),
    "left_out": {"crew/grant/x": "why"},
    "changes": {"department": "Deck", "starts": None},
    "applied": False,
    "effective": NOW,
}
OWN: dict[type[Cause], dict[str, Any]] = {
    AccountCause: {"action": Quick.PURGE, "accounts": ("a",), "ends": ("crew",)},
    CredentialCause: {"account": "a", "sealed": "c2VhbGVk"},
    KeysCause: {"account": "a", "until": NOW, "places": ("tides",)},
    RevertCause: {"deviation": "x"},
    GroupCause: {"account": "g", "settings": {"owner_id": "a"}, "name": "Pilots"},
    LeaverCause: {"successor": "svarga"},
}


@pytest.mark.parametrize("verb", list(Verb))
def test_a_cause_is_read_back_as_it_was(verb: Verb) -> None:
    kind = CAUSES[verb]
    for said in ({}, WHOLE):
        cause = kind(**said, **OWN.get(kind, {}))
        stored = msgspec.json.decode(msgspec.json.encode(cause_document(cause)))
        assert cause_from(verb, stored) == cause
        assert stored["changes"] == dict(cause.changes), "the version before indexes it"
        assert "applied" in stored, "the version before takes a missing one for false"


def test_what_the_version_before_wrote_is_read() -> None:
    mover: Document = {
        "changes": {"department": "Safety"},
        "applied": False,
        "urgent": False,
        "needs": [],
    }
    assert cause_from(Verb.MOVER, mover) == MoverCause(
        changes={"department": "Safety"}, applied=False
    )
    recheck = cause_from(Verb.RECHECK, {"basis": "first day"})
    assert (recheck.basis, recheck.changes, recheck.applied) == ("first day", {}, True)
    newer = cause_from(Verb.CLOSE, {"account": "a", "something": {"of": "a version to come"}})
    assert newer == CAUSES[Verb.CLOSE](account="a")  # type: ignore[call-arg]


def test_every_field_of_a_cause_has_a_default_but_what_makes_its_verb() -> None:
    """Or what the version before wrote could not be read."""
    for kind in CAUSES.values():
        needed = {f.name for f in fields(kind)} - set(OWN.get(kind, {}))
        assert kind(**OWN.get(kind, {}))
        assert replace(kind(**OWN.get(kind, {})), basis="x").basis == "x"
        assert needed


def test_a_client_takes_what_it_does_not_know_and_a_service_does_not() -> None:
    said = {
        "batch_id": "b",
        "verb": "sabbatical",
        "made_at": NOW.isoformat(),
        "due_at": NOW.isoformat(),
        "names": [],
    }
    found = Prepared.model_validate(said, context=LENIENT)
    assert found.verb == "sabbatical"
    assert f"{found.verb}" == found.verb.value == "sabbatical"
    assert found.verb not in set(Verb)
    assert Prepared.model_validate_json(found.model_dump_json(), context=LENIENT) == found
    with pytest.raises(ValidationError):
        Prepared.model_validate(said)
    known = Prepared.model_validate({**said, "verb": "leaver"}, context=LENIENT)
    assert known.verb is Verb.LEAVER
