"""Every error Yugum raises on purpose, as one tree.

Each class carries ``code`` (a stable string, part of the interface) and ``retryable`` (whether the
same call may succeed later without anybody changing anything). An instance adds ``remedy`` (what to
do about it) and ``place`` (which field, line or object it is about).

    YugumError
    ├── NotFound                 nothing by that name
    ├── Ambiguous                several by that name
    ├── InvalidInput             a value that cannot be used
    ├── Conflict                 the state of things does not allow it
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
    ├── MailFailed               a mail could not be handed over
    └── ApplicationError         something an application answered
        ├── ApplicationUnavailable   no answer, or an answer that says "later"
        ├── RateLimited              asked to slow down
        ├── ApplicationRejected      it understood and refused
        └── CannotDo                 the application has no such capability
"""

from __future__ import annotations

from typing import ClassVar


class YugumError(Exception):
    """Base of all errors; see the module's docstring for the tree."""

    code: ClassVar[str] = "error"
    retryable: ClassVar[bool] = False

    def __init__(self, message: str, *, remedy: str = "", place: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.remedy = remedy
        self.place = place


class NotFound(YugumError):
    code = "not-found"


class Ambiguous(YugumError):
    code = "ambiguous"


class InvalidInput(YugumError):
    code = "invalid-input"


class Conflict(YugumError):
    code = "conflict"


class PlanStale(Conflict):
    code = "plan-stale"


class WindowOver(Conflict):
    code = "window-over"


class NoSeat(Conflict):
    code = "no-seat"


class Held(Conflict):
    code = "held"


class AccessError(YugumError):
    code = "access"


class Unauthenticated(AccessError):
    code = "unauthenticated"


class Forbidden(AccessError):
    code = "forbidden"


class Throttled(AccessError):
    code = "throttled"
    retryable = True

    def __init__(self, message: str, *, retry_after: float, remedy: str = "") -> None:
        super().__init__(message, remedy=remedy)
        self.retry_after = retry_after


class LeaseLost(YugumError):
    code = "lease-lost"


class ConfigError(YugumError):
    code = "config"


class ServiceUnreachable(YugumError):
    code = "unreachable"
    retryable = True


class MailFailed(YugumError):
    code = "mail-failed"
    retryable = True


class ApplicationError(YugumError):
    code = "application"


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

    def __init__(self, message: str, *, retry_after: float, remedy: str = "") -> None:
        super().__init__(message, remedy=remedy)
        self.retry_after = retry_after


class ApplicationRejected(ApplicationError):
    code = "application-rejected"


class CannotDo(ApplicationError):
    code = "cannot-do"
