"""Every error Yugum raises on purpose, as one tree.

Each class carries ``code`` (a stable string, part of the interface), ``retryable`` (whether the
same call may succeed later without anybody changing anything), the ``status`` it leaves the service
with (RFC 9110 15) and the ``exit_code`` of a command that ends with it. A class without one of its
own has that of the class above it, so the most specific one decides; service, client and command
line read the classes and keep no list beside them. An instance adds ``remedy`` (what to do about
it), ``place`` (which field, line or object it is about) and ``retry_after`` (seconds).

    YugumError
    ├── NotFound                 nothing by that name
    ├── Ambiguous                several by that name
    ├── InvalidInput             a value that cannot be used
    │   └── TooSlow              a filter that would read too much
    ├── Conflict                 the state of things does not allow it
    │   ├── Doubtful             it may be right, and is taken once that is said
    │   ├── PlanStale            what the plan was made from has changed
    │   ├── WindowOver           too late to bring back
    │   ├── NoSeat               the pool is empty
    │   └── Held                 a hold forbids it
    ├── AccessError
    │   ├── Unauthenticated      who are you?
    │   ├── Forbidden            you may not
    │   └── Throttled            too many attempts
    ├── LeaseLost                another worker has taken over
    ├── ConfigError              the settings do not fit
    ├── ServiceUnreachable       the client cannot reach the service
    ├── DatabaseAway             the database cannot be used for a moment
    │   └── Collided             two changed the same at once, and this one was rolled back
    ├── MailFailed               a mail could not be handed over
    └── ApplicationError         something an application answered
        ├── ApplicationUnavailable   no answer, or an answer that says "later"
        ├── RateLimited              asked to slow down
        ├── ApplicationRejected      it understood and refused
        └── CannotDo                 the application has no such capability
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar


class YugumError(Exception):
    """Base of all errors; see the module's docstring for the tree."""

    code: str = "error"
    retryable: bool = False
    status: ClassVar[int] = 500
    exit_code: ClassVar[int] = 1

    def __init__(
        self, message: str, *, remedy: str = "", place: str = "", retry_after: float | None = None
    ) -> None:
        super().__init__(message)
        self.message = message
        self.remedy = remedy
        self.place = place
        self.retry_after = retry_after


class NotFound(YugumError):
    code = "not-found"
    status = 404
    exit_code = 3


class Ambiguous(YugumError):
    code = "ambiguous"
    status = 409
    exit_code = 3


class InvalidInput(YugumError):
    code = "invalid-input"
    status = 422
    exit_code = 4


class TooSlow(InvalidInput):
    code = "too-slow"


class Conflict(YugumError):
    code = "conflict"
    status = 409
    exit_code = 4


class Doubtful(Conflict):
    """What was typed looks like a slip; said to be ``right`` (its place), it is taken."""

    code = "doubtful"


class PlanStale(Conflict):
    code = "plan-stale"
    status = 412


class WindowOver(Conflict):
    code = "window-over"


class NoSeat(Conflict):
    code = "no-seat"


class Held(Conflict):
    code = "held"


class AccessError(YugumError):
    code = "access"
    status = 403
    exit_code = 6


class Unauthenticated(AccessError):
    code = "unauthenticated"
    status = 401


class Forbidden(AccessError):
    code = "forbidden"


class Throttled(AccessError):
    code = "throttled"
    retryable = True
    status = 429


class LeaseLost(YugumError):
    code = "lease-lost"
    status = 409


class ConfigError(YugumError):
    code = "config"


class ServiceUnreachable(YugumError):
    code = "unreachable"
    retryable = True
    status = 503
    exit_code = 5


class DatabaseAway(YugumError):
    code = "database-away"
    retryable = True
    status = 503
    exit_code = 5


class Collided(DatabaseAway):
    code = "collided"


class MailFailed(YugumError):
    code = "mail-failed"
    retryable = True
    status = 502


class ApplicationError(YugumError):
    code = "application"
    status = 502
    exit_code = 7


class ApplicationUnavailable(ApplicationError):
    code = "application-unavailable"
    retryable = True

    @classmethod
    def unanswered(cls, name: str, seconds: float) -> ApplicationUnavailable:
        """It was called and has said nothing within its time."""
        return cls(
            f"{name} has not answered in {seconds:g} seconds.",
            remedy="It is asked again by itself; what it did is looked at first.",
        )


class RateLimited(ApplicationError):
    code = "rate-limited"
    retryable = True


class ApplicationRejected(ApplicationError):
    code = "application-rejected"


class CannotDo(ApplicationError):
    code = "cannot-do"


def tree(top: type[YugumError] = YugumError) -> Iterator[type[YugumError]]:
    """A class and all below it, each after the one above it."""
    yield top
    for kind in top.__subclasses__():
        yield from tree(kind)


def told(
    code: str,
    message: str,
    *,
    retryable: bool = False,
    remedy: str = "",
    place: str = "",
    retry_after: float | None = None,
) -> YugumError:
    """The error another process told of, of the class it had there.

    A code that this version does not know, from a newer service, keeps its name and whether it may
    be tried again.
    """
    kind = next((kind for kind in tree() if kind.code == code), YugumError)
    error = kind(message, remedy=remedy, place=place, retry_after=retry_after)
    error.code, error.retryable = code, retryable
    return error
