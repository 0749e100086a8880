"""What docs/guide/standing.md, back.md, seats.md and attributes.md promise of people's accounts, played forward; nothing of Yugum is used.

Whoever changes the guide changes this, whoever changes the code does not.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta
from functools import partial
from zoneinfo import ZoneInfo

ZONE = "Europe/London"
ALWAYS, FOREVER = datetime.min.replace(tzinfo=UTC), datetime.max.replace(tzinfo=UTC)
GRACE = timedelta(hours=24)
AGREED = timedelta(hours=48)
"""How long somebody is asked before it is over."""
AWAITS, FORGOTTEN = "awaits", "forgotten"
LEAVER = ("", "docket", "leaver", "asked")
"""The line of a leaver docket that waits for a yes, or got none in time."""


@dataclass(frozen=True, slots=True)
class Application:
    """How one ends accounts: in ``close`` days, then kept ``window`` days; 0 means gone at once."""

    kind: str
    deletion: str
    close: int
    window: int
    contact: str


APPLICATIONS = {
    "alpha": Application("scim", "recoverable", 7, 30, "Ada, +00 555 0101"),
    "beta": Application("scim", "final", 10, 0, "Bo, +00 555 0102"),
    "gamma": Application("scim", "recoverable", 3, 14, "Cy, +00 555 0103"),
    "delta": Application("postgres", "park", 5, 20, "Di, +00 555 0104"),
    "epsilon": Application("ldap", "park", 12, 25, "Ed, +00 555 0105"),
}
GIVES = {
    "Deck": {"alpha": {"deck"}, "gamma": {"ropes"}, "delta": {"logs"}},
    "Shore": {"alpha": {"shore"}, "beta": {"desk"}, "epsilon": {"office"}},
    "Yard": {"gamma": {"tools"}, "beta": {"crane"}, "delta": {"parts", "logs"}},
}
SEATED, BERTH = "alpha", "Berth"
"""Every role that gives an account here gives a seat as well; there are not enough of them."""
FIRST_SERVED = "Shore"
"""The department that comes first in line, where it has come first when a seat is asked for."""
ASIDE = timedelta(days=90)
SAYS = {"alpha": "enterprise.department", "delta": "comment", "epsilon": "departmentNumber"}
"""The attribute that an application keeps in step, made of the department."""
OVERLAP = {"Deck": 5, "Shore": 0, "Yard": 0}
EXTRA = "extra"
GROUPS = sorted({g for given in GIVES.values() for some in given.values() for g in some} | {EXTRA})

Key = tuple[str, str, str, str]
"""A line: application, kind, item and which way it differs."""


def days_later(moment: datetime, days: int) -> datetime:
    """So many calendar days later, at the same time of the day in the person's zone."""
    there = moment.astimezone(ZoneInfo(ZONE)).replace(tzinfo=None, fold=0)
    return (there + timedelta(days=days)).replace(tzinfo=ZoneInfo(ZONE)).astimezone(UTC)


@dataclass(slots=True)
class Span:
    """Something that is in force from a moment until another."""

    begins: datetime
    ends: datetime = FOREVER
    item: str = ""
    where: str = ""
    id: str = ""

    def at(self, moment: datetime) -> bool:
        return self.begins <= moment < self.ends


@dataclass(slots=True)
class Held:
    """An account as its application should have it; ``ended`` since when nothing gives it.

    ``known`` is when that was learned, where it was later; ``restored`` when it last came back.
    """

    state: str = "none"
    groups: set[str] = field(default_factory=set)
    seat: bool = False
    says: str = ""
    until: datetime | None = None
    ended: datetime | None = None
    known: datetime | None = None
    restored: datetime | None = None
    came: int = 0
    """How often it was made or restored."""
    let_go: bool = False
    """Whether its application let it go by itself and nobody has read that since."""


@dataclass(slots=True)
class Somebody:
    login: str
    department: str
    leaves: datetime = FOREVER
    leaving_known: datetime | None = None
    begins: datetime = ALWAYS
    first_day: date = date.max
    away: list[Span] = field(default_factory=list)
    roles: list[Span] = field(default_factory=list)
    extras: list[Span] = field(default_factory=list)
    holds: list[Span] = field(default_factory=list)
    held: dict[str, Held] = field(default_factory=lambda: {a: Held() for a in APPLICATIONS})
    since: dict[Key, datetime] = field(default_factory=dict)
    accepted: list[tuple[Key, Span]] = field(default_factory=list)
    precautions: list[Span] = field(default_factory=list)
    either: datetime | None = None
    """Since when a seat of an account made for a late fact may be said to lack as well."""
    asked: Span | None = None
    """From when until when somebody is asked about the leaving; not there once they have answered."""

    def is_shut(self, at: datetime) -> bool:
        """Whether a precaution keeps all accounts closed and everything else as it is."""
        return at < self.leaves and any(s.at(at) for s in self.precautions)

    def asks(self, at: datetime) -> str:
        """Whether the leaving awaits a yes, or was forgotten."""
        if self.asked is None or at < self.asked.begins:
            return ""
        return AWAITS if self.asked.at(at) else FORGOTTEN

    def only_secured(self, at: datetime) -> bool:
        """Whether somebody's access has ended and nobody has agreed to anything else."""
        return at >= self.leaves and bool(self.asks(at))

    def given(self, app: str, at: datetime) -> set[str] | None:
        """The groups that roles and exceptions give in an application; None for no account."""
        if at >= self.leaves or at < self.begins:
            return None
        names = {self.department} | {s.item for s in self.roles if s.at(at)}
        groups = [GIVES[n][app] for n in names if app in GIVES[n]]
        groups += [{s.item} for s in self.extras if s.where == app and s.at(at)]
        return set().union(*groups) if groups else None

    def wants_seat(self, at: datetime) -> bool:
        names = {self.department} | {s.item for s in self.roles if s.at(at)}
        return self.begins <= at < self.leaves and any(SEATED in GIVES[n] for n in names)

    def is_away(self, at: datetime) -> bool:
        return any(s.at(at) for s in self.away)

    def moments(self) -> list[datetime]:
        spans = [*self.away, *self.roles, *self.extras, *self.holds, *self.precautions]
        spans += [self.asked] if self.asked else []
        return [self.begins, self.leaves, *(s.begins for s in spans), *(s.ends for s in spans)]


@dataclass(slots=True)
class Aside:
    """A seat that is set aside for somebody until a moment, or passed on to them by its ``holder``."""

    login: str
    ends: datetime
    holder: str = ""
    given: bool = False
    taken: bool = False


@dataclass(slots=True)
class Model:
    """What the guide promises. ``out`` are applications in which nothing can be done, and why."""

    now: datetime
    people: dict[str, Somebody] = field(default_factory=dict)
    holds: list[Span] = field(default_factory=list)
    out: dict[str, str] = field(default_factory=dict)
    bought: int = 3
    line: dict[str, tuple[bool, date, int]] = field(default_factory=dict)
    """Who waits: whether they come last, their first day, and when they came."""
    came: int = 0
    asides: list[Aside] = field(default_factory=list)

    # --- seats ---------------------------------------------------------------------------------

    def _seat(self, who: Somebody) -> None:
        """What becomes of somebody's seat, and of their place in line."""
        held, given = who.held[SEATED], who.given(SEATED, self.now)
        there = held.state in ("active", "suspended")
        kept = who.is_shut(self.now) or who.only_secured(self.now)
        kept = kept or (given is not None and who.is_away(self.now))
        wants = there and not kept and given is not None and who.wants_seat(self.now)
        if not wants:
            self.line.pop(who.login, None)
        if not there or not (kept or wants):
            if held.seat:
                self._gives_back(who)
        elif wants and not held.seat and who.login not in self.line:
            self.came += 1
            self.line[who.login] = (*self._comes(who), self.came)
        self.serve()

    def _comes(self, who: Somebody) -> tuple[bool, date]:
        return who.department != FIRST_SERVED, who.first_day

    def _gives_back(self, who: Somebody) -> None:
        who.held[SEATED].seat = False
        for aside in self.asides:
            if aside.holder == who.login:
                aside.given = True

    def aside_for(self, login: str) -> Aside | None:
        """What is set aside for somebody, or will be once its holder has given it back."""
        return next((a for a in self.asides if a.login == login and self._counts(a)), None)

    def _counts(self, aside: Aside) -> bool:
        who = self.people[aside.login]
        there = not who.held[SEATED].seat and self.now < who.leaves
        return there and not aside.taken and self.now < aside.ends

    @property
    def free(self) -> int:
        """Seats that are nobody's, those that are set aside too."""
        return self.bought - sum(p.held[SEATED].seat for p in self.people.values())

    @property
    def kept(self) -> set[str]:
        """For whom a seat is set aside that nobody has."""
        some = [a for a in self.asides if self._counts(a) and (a.given or not a.holder)]
        return {a.login for a in some}

    def serve(self) -> None:
        """Free seats go to those for whom they are set aside, others to the head of the line."""
        while True:
            kept = self.kept
            mine = [w for w in self.line if w in kept]
            others = sorted((w for w in self.line if w not in kept), key=lambda w: self.line[w])
            if mine and self.free > 0:
                first = mine[0]
            elif others and self.free > len(kept):
                first = others[0]
            else:
                return
            who = self.people[first]
            self.line[first] = (*self._comes(who), self.line[first][2])
            if first not in kept and min(others, key=lambda w: self.line[w]) != first:
                continue  # somebody else comes first by now
            self._takes(who)

    def _takes(self, who: Somebody) -> None:
        aside = self.aside_for(who.login)
        if aside is not None:
            aside.taken = True
        del self.line[who.login]
        who.held[SEATED].seat = True
        self._note(who, None)

    # --- what becomes of accounts --------------------------------------------------------------

    def settle(self, who: Somebody, known: datetime | None = None) -> None:
        """What becomes of somebody's accounts now; ``known`` is since when a late fact is true."""
        there = who.held[SEATED].state in ("active", "suspended")
        for app in APPLICATIONS:
            held, given = who.held[app], who.given(app, self.now)
            if given is not None:
                held.ended = held.known = None
            elif held.ended is None and held.state != "none":
                held.ended, held.known = known or self.now, self.now if known else None
                if known is not None:
                    held.ended = self._not_given_from(who, app, known)
            if app not in self.out:
                self._act(who, app, given)
        self._note(who, known)
        self._seat(who)
        self._note(who, known if there else None)
        if known is not None and not there:
            who.either = known

    def _not_given_from(self, who: Somebody, app: str, known: datetime) -> datetime:
        """The first moment since ``known`` from which on nothing gave an account."""
        return self._first(who, known, lambda at: who.given(app, at) is None)

    def _first(self, who: Somebody, begin: datetime, is_so: Callable[[datetime], bool]) -> datetime:
        """The first moment since ``begin`` from which on something is so until now."""
        moments = {begin, self.now, *(m for m in who.moments() if begin < m < self.now)}
        first = self.now
        for moment in sorted(moments, reverse=True):
            if not is_so(moment):
                break
            first = moment
        return first

    def _act(self, who: Somebody, app: str, given: set[str] | None) -> None:
        """What an application in which things can be done makes of it."""
        held = who.held[app]
        if held.state == "deleted":
            assert held.until is not None
            held_on, over = self.on_hold(who, app, self.now), held.until <= self.now
            waits = held_on or who.only_secured(self.now)
            if over and not (waits and APPLICATIONS[app].deletion == "park"):
                self._lets_go(held)
            elif held_on and not over:
                held.state, held.until, held.restored = "suspended", None, self.now
                held.came += 1
        if who.is_shut(self.now):
            held.state = "suspended" if held.state == "active" else held.state
            due = None if given is not None else self.close_due(who, app, self.now)
            if held.state == "suspended" and due is not None and due <= self.now:
                self.delete(held, app)
        elif given is None:
            self._withdraw(who, app, held)
        elif who.is_away(self.now):
            held.state = "suspended" if held.state == "active" else held.state
        else:
            if held.state == "deleted":
                held.restored = self.now
            if held.state in ("none", "gone"):
                held.restored = None
            held.let_go = False
            held.came += held.state in ("none", "gone", "deleted")
            held.state, held.until, held.groups = "active", None, set(given)
            if app in SAYS:
                held.says = who.department

    def read(self, app: str) -> None:
        """All that an application has is seen: what it has let go by itself is gone."""
        if APPLICATIONS[app].deletion == "recoverable":
            for person in self.people.values():
                self._lets_go(person.held[app])
                person.held[app].let_go = False
                self._note(person, None)

    def _lets_go(self, held: Held) -> None:
        if held.until is not None and self.now >= held.until:
            held.state, held.until, held.restored, held.groups = "gone", None, None, set()
            held.let_go = True

    def _withdraw(self, who: Somebody, app: str, held: Held) -> None:
        if held.state not in ("active", "suspended"):
            return
        held.state = "suspended"
        if who.only_secured(self.now):
            return
        held.groups = set()
        due = self.close_due(who, app, self.now)
        if due is not None and due <= self.now:
            self.delete(held, app)

    def delete(self, held: Held, app: str) -> None:
        window = APPLICATIONS[app].window
        held.state = "deleted" if window else "gone"
        held.until = self.now + timedelta(days=window) if window else None
        if APPLICATIONS[app].deletion != "park":  # what is parked stays in its groups
            held.groups = set()

    def close_due(self, who: Somebody, app: str, at: datetime) -> datetime | None:
        """When the account is closed, if nothing gives it; None under a hold without end."""
        held = who.held[app]
        left = at >= who.leaves
        ended, known = (who.leaves, who.leaving_known) if left else (held.ended, held.known)
        if ended is None:
            return None
        start = max(ended, held.restored) if held.restored else ended
        due = days_later(start, APPLICATIONS[app].close)
        if known is not None and known > start:
            due = max(due, known + GRACE)
        holds = sorted(self._holds(who, app), key=lambda h: h.ends)
        for hold in holds:
            if hold.at(due):
                due = hold.ends
        if due <= at:
            for hold in holds:
                if hold.at(at):
                    due = max(due, hold.ends)
        return None if due == FOREVER else due

    def _holds(self, who: Somebody, app: str) -> list[Span]:
        return [*who.holds, *(h for h in self.holds if h.where == app)]

    def on_hold(self, who: Somebody, app: str, at: datetime) -> bool:
        return any(h.at(at) for h in self._holds(who, app))

    # --- time ----------------------------------------------------------------------------------

    def forward(self, to: datetime) -> None:
        """Play all moments until one, that one included."""
        while True:
            ahead = [m for p in self.people.values() for m in self._ahead(p)]
            ahead += [m for h in self.holds for m in (h.begins, h.ends)]
            ahead += [a.ends for a in self.asides]
            following = min((m for m in ahead if self.now < m <= to), default=None)
            if following is None:
                break
            self.now = following.astimezone(UTC)  # days of a zone are not those of a window
            self.all()
        self.now = to

    def all(self) -> None:
        for person in self.people.values():
            self.settle(person)

    def _ahead(self, who: Somebody) -> Iterable[datetime]:
        yield from who.moments()
        for app, held in who.held.items():
            if held.until is not None:
                yield held.until
            if held.state in ("active", "suspended") and who.given(app, self.now) is None:
                due = self.close_due(who, app, self.now)
                if due is not None:
                    yield due

    # --- lines ---------------------------------------------------------------------------------

    def _note(self, who: Somebody, known: datetime | None) -> None:
        """Since when each line stands; one that goes and comes back begins anew."""
        found = self.keys(who, self.now)
        for key in who.since.keys() - found:
            del who.since[key]
        for key in found - who.since.keys():
            who.since[key] = (
                self.now
                if known is None or key[3] == "asked"
                else self._first(who, known, partial(self._is_told, who, key))
            )

    def _is_told(self, who: Somebody, key: Key, at: datetime) -> bool:
        return key in self.keys(who, at)

    def unseen(self, who: Somebody) -> set[Key]:
        """What an application has let go by itself by now: it stays a line until it is seen."""
        return {
            (app, "account", "closing", "too_much")
            for app, held in who.held.items()
            if held.let_go or (held.until is not None and held.until <= self.now)
            if APPLICATIONS[app].deletion == "recoverable"
        }

    def keys(self, who: Somebody, at: datetime) -> set[Key]:
        """What is not as it should be at a moment, with what is held now."""
        some = APPLICATIONS if who.only_secured(self.now) else self.out
        found = {(app, *rest) for app in some for rest in self._keys_in(who, app, at)}
        if who.asks(at):
            found.add(LEAVER)
        kept = who.is_away(at) or who.is_shut(at)
        if who.login in self.line and who.wants_seat(at) and not kept:
            found.add((SEATED, "seat", BERTH, "missing"))
        if who.only_secured(self.now) and who.held[SEATED].seat:
            found.add((SEATED, "seat", BERTH, "too_much"))
        for app, held in who.held.items():
            over = held.until is not None and held.until <= at
            if over and app not in self.out and self.on_hold(who, app, at):
                found.add((app, "account", "closing", "too_much"))
        return found

    def _keys_in(self, who: Somebody, app: str, at: datetime) -> Iterator[tuple[str, str, str]]:
        held, given = who.held[app], who.given(app, at)
        there = held.state in ("active", "suspended")
        if given is None or who.is_shut(at):
            yield from self._ended_in(who, app, at)
            return
        if held.until is not None and held.until <= at:
            yield "account", "closing", "too_much"  # that one cannot come back
        if who.is_away(at):
            if held.state == "active":
                yield "account", "", "too_much"
        else:
            if held.state != "active":
                yield "account", "", "missing"
                if self.out.get(app) != "watched":
                    yield "step", "set credential", "asked"
            back = held.until is None or held.until > at
            # What is parked and kept by a hold comes back whenever its application answers.
            back = back or (APPLICATIONS[app].deletion == "park" and self.on_hold(who, app, at))
            kept = there or (held.state == "deleted" and back)
            if kept and app in SAYS and held.says != who.department:
                yield "attribute", SAYS[app], "differs"
            for group in given - (held.groups if there else set()):
                yield "entitlement", group, "missing"
            for group in held.groups - given if there else ():
                yield "entitlement", group, "too_much"

    def _ended_in(self, who: Somebody, app: str, at: datetime) -> Iterator[tuple[str, str, str]]:
        """What is left of an account that nothing gives, or that a precaution keeps shut."""
        held, given = who.held[app], who.given(app, at)
        due = held.until
        if held.state != "deleted":
            due = None if given is not None else self.close_due(who, app, at)
        if held.until is not None and at < held.until and self.on_hold(who, app, at):
            yield "account", "", "missing"  # it is to come back, suspended
        if held.state == "active":
            yield "account", "", "too_much"
        if due is not None and due <= at and held.state not in ("none", "gone"):
            yield "account", "closing", "too_much"
        if held.state in ("active", "suspended") and not who.is_shut(at):
            for group in held.groups:
                yield "entitlement", group, "too_much"
