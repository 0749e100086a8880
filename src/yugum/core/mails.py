"""What people are told: the text of every mail, apart from how it is sent."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from yugum.core.actions import Action
from yugum.core.wording import plural


class MailKind(StrEnum):
    CREDENTIAL = "credential"
    APPROVAL = "approval"
    REMINDER = "reminder"
    NOTICE = "notice"


@dataclass(frozen=True, slots=True, kw_only=True)
class Mail:
    """One mail. ``secret`` is the line with a one-time link; it is kept encrypted until sent.

    Of an ``event`` there is one mail to an address.
    """

    address: str
    subject: str
    text: str
    kind: MailKind
    secret: str = ""
    subject_id: str | None = None
    docket_id: str | None = None
    event: str | None = None


def credential_mail(
    address: str, receiver: str, name: str, application: str, login: str, hours: float
) -> tuple[str, str]:
    """Subject and text that go with the link to an initial credential."""
    subject = f"First sign-in to {application} for {name}"
    text = (
        f"{receiver},\n\n"
        f"the account {login} of {name} in {application} is ready. Its first password is behind "
        f"the link below. The link works once and for {hours:g} hours; hand it over in person, or "
        "let the owner of the account open it and choose a password.\n\n"
        f"This mail went to {address} and to nobody else."
    )
    return subject, text


def key_mail(
    receiver: str, application: str, place: str, until: str, hours: float
) -> tuple[str, str]:
    """Subject and text that go with the link to a key that takes the place of one; whose that is they do not say."""
    subject = f"A new key for {place}"
    old = (
        f"The old one works on until {until}: put the new one in its place before"
        if until
        else "The old one works no more"
    )
    text = (
        f"{receiver},\n\n"
        f"{place} in {application} runs with a key that ends. Its new one is behind the "
        f"link below, which works once and for {hours:g} hours. {old}.\n\n"
        "This mail went to nobody else."
    )
    return subject, text


def typed_mail(application: str, login: str, author: str) -> tuple[str, str]:
    """Subject and text that tell an account's owner that somebody typed a new password for it."""
    subject = f"A new password for {login} in {application}"
    text = (
        f"{author} has set a new password for the account {login} in {application}; it is in no mail. "
        "The one before has stopped working. If nobody has agreed this with you, tell the administrators."
    )
    return subject, text


def approval_mail(  # noqa: PLR0913 - what the mail says
    asked: str, name: str, verb: str, who: str, author: str, reason: str, summary: str, until: str
) -> tuple[str, str]:
    """Subject and text that ask for an approval."""
    subject = f"Your approval: {verb} {who}"
    because = f" Reason given: {reason}." if reason else ""
    text = (
        f"{asked},\n\n{author} wants to carry out: {verb} {who}.{because}\n{summary}\n\n"
        f"It waits for you ({name}) until {until}. Open the link below to agree or refuse."
    )
    return subject, text


def term_mail(receiver: str, name: str, ends: str, page: str) -> tuple[str, str]:
    """Subject and text that remind a manager of the end of a fixed term."""
    subject = f"The term of {name} ends on {ends}"
    text = (
        f"{receiver},\n\nafter {ends} all access of {name} ends by itself. If the term goes on, "
        f"ask for an extension; it can be granted late as well, then everything comes back.\n\n{page}"
    )
    return subject, text


def review_mail(receiver: str, name: str, measure: str, since: str, page: str) -> tuple[str, str]:
    """Subject and text that remind of a precaution's review; the ground is not in it."""
    subject = f"To be looked at again today: the precaution on {name}"
    text = (
        f"{receiver},\n\nsince {since} {name} is {measure} as a precaution. Lift it, turn it into a "
        f"leaver, or let it stand and look at it again later.\n\n{page}"
    )
    return subject, text


def invitation_mail(
    name: str, invitations: Sequence[tuple[str, datetime, datetime | None]]
) -> tuple[str, str]:
    """Subject and text that remind of open invitations: application, when sent, when withdrawn."""
    first = invitations[0][0]
    subject = f"{name}: an invitation to {first} is waiting"
    if len(invitations) > 1:
        subject = f"{name}: {plural(len(invitations), 'invitation')} are waiting"
    lines = [
        f"{application}: invited on {sent:%-d %b %Y}"
        + (f"; withdrawn on {ends:%-d %b %Y} if it is not accepted." if ends else ".")
        for application, sent, ends in invitations
    ]
    text = (
        f"{name} has been invited and has not accepted yet.\n\n" + "\n".join(lines) + "\n\n"
        "Each invitation came as a mail of the application itself. If it cannot be found, the "
        "administrators can have it sent again."
    )
    return subject, text


def unused_mail(
    name: str, license: str, application: str, login: str, used: str, answer_by: str
) -> tuple[str, str]:
    """Subject and text that ask whether a seat is still needed."""
    subject = f"Do you still need {license} in {application}?"
    text = (
        f"{name},\n\nyou have a seat of {license} in {application} with the account {login}, {used}. "
        f"Somebody else may be waiting for one. Say behind the link below whether you still need it. "
        f"Without an answer by {answer_by} it may be given to somebody else."
    )
    return subject, text


def takeover_mail(
    receiver: str, some: Sequence[tuple[str, str, str, int]], answer_by: str, *, again: bool
) -> tuple[str, str]:
    """Subject and text that ask whether somebody takes over what is others': of each whose, application, kind, how many."""
    names = list(dict.fromkeys(name for name, *_ in some))
    who = names[0] if len(names) == 1 else plural(len(names), "person", "people")
    subject = f"{'Still open: ' if again else ''}Do you take over from {who}?"
    lines = []
    for name in names:
        lines.append(f"From {name}:")
        lines += [
            f"  {where}: {plural(n, kind)}" for whose, where, kind, n in some if whose == name
        ]
    text = (
        f"{receiver},\n\nyou are to take over what others own who leave or have left.\n\n"
        + "\n".join(lines)
        + "\n\nSay behind the link below of each whether you take it over, who else should, or that "
        f"you do not, by {answer_by}. Nothing is yours before you have agreed."
    )
    return subject, text


def keeper_mail(
    name: str, ends: str, places: Sequence[tuple[str, str, str]], *, over: bool
) -> tuple[str, str]:
    """Subject and text that tell who answers for places of whom these name: application, place, what stops."""
    subject = f"{name} {'has left' if over else 'leaves'}: {plural(len(places), 'place')} of yours"
    lines = [
        f"{application}: {place}" + (f" ({effect})" if effect else "")
        for application, place, effect in places
    ]
    text = (
        f"You answer for what names {name} or runs with what is theirs. Their access "
        f"{'ended' if over else 'ends'} on {ends}; {'' if over else 'then '}their keys do not work any more:\n\n"
        + "\n".join(lines)
        + "\n\nSee to it that somebody else stands there by then, with a key of their own where there "
        "is one. What can be changed from outside is changed with the leaving; your administrators "
        "can say to whom."
    )
    return subject, text


def arrived_mail(
    receiver: str, name: str, arrived: Sequence[tuple[str, str, int, Sequence[str]]]
) -> tuple[str, str]:
    """Subject and text that tell what of somebody's has arrived: application, kind, how many, some of the names."""
    subject = f"You have taken over from {name}"
    lines = []
    for application, kind, count, names in arrived:
        more = f" and {count - len(names)} more" if count > len(names) else ""
        lines.append(f"{application}: {plural(count, kind)} ({', '.join(names)}{more})")
    text = (
        f"{receiver},\n\nwhat {name} owned is yours now:\n\n" + "\n".join(lines) + "\n\n"
        "It is in your own account of each application. If something of it should be with somebody "
        "else, tell your administrators: they can pass it on."
    )
    return subject, text


def order_mail(row: Mapping[str, str], todo: str, page: str) -> str:
    """The text that tells of an order of seats, a line for each thing that is said of it."""
    lines = [f"{name}: {value}" for name, value in row.items() if value]
    return "\n".join(lines) + f"\n\n{todo}\n\n{page}"


AGAIN: Mapping[Action, str] = {
    Action.RESUME: "open again; sign in with the new password, on each device",
    Action.RESTORE: "back; what was signed in before has to sign in again",
    Action.RENAME: "the login is now {item}; replace it where a device or a program keeps it",
    Action.SET_CREDENTIAL: "a new password, told apart from this mail",
    Action.END_DEVICES: "trusted on no device any more; confirm each one again",
    Action.LOCK: "sessions and keys have ended; the password is nobody's",
    Action.CUT_OFF: "sessions and keys have ended; issue new keys where programs use them",
}
"""What somebody has to do again after a step."""


def again(steps: Iterable[tuple[str, Action, str]]) -> str:
    """What somebody has to do again, a line an application: its name, what was done, with what."""
    told: dict[str, list[str]] = {}
    for name, action, item in steps:
        if action in AGAIN:
            told.setdefault(name, []).append(AGAIN[action].replace("{item}", item))
    return "\n".join(
        f"{name}: {'; '.join(dict.fromkeys(lines))}." for name, lines in sorted(told.items())
    )


def filled(template: str, values: dict[str, str]) -> str:
    """A notice's text with its places filled in; unknown places stay as they are."""
    for key, value in values.items():
        template = template.replace(f"{{{key}}}", value)
    return template
