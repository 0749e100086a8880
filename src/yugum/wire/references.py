"""Where somebody is named without owning it, and who is to stand there."""

from __future__ import annotations

from yugum.core.handover import Ground
from yugum.core.redirections import How
from yugum.wire.common import Model, Moment, Seen


class ReferenceRow(Model):
    """A place that names somebody: its ``text`` now and ``after``; ``effect`` is what stops while nobody stands there,
    ``contact`` the address of whoever answers for it.

    ``how`` it changes: with the ``leaving`` by a step, ``by-hand``, not yet (``open``), or not at all by a choice
    (``stays``); ``why`` says more. Without an application it is Yugum's own. ``thing`` is what the place is.
    """

    application_id: str | None
    application_name: str
    key: str
    thing: str
    place: str
    text: str
    after: str
    how: Seen[How]
    ground: Seen[Ground] | None
    to_id: str | None
    to_name: str
    effect: str
    contact: str
    why: str


class KeysRow(Model):
    """Keys of an account, which end with the access."""

    application_id: str
    application_name: str
    login: str
    count: int


class ReferencesView(Model):
    """Where somebody is named, as of the moment ``at`` at which they leave, or now.

    ``silent`` applications did not answer, ``unsearched`` show no such places.
    """

    id: str
    name: str
    user_name: str
    at: Moment
    rows: list[ReferenceRow]
    keys: list[KeysRow]
    silent: list[str]
    unsearched: list[str]
