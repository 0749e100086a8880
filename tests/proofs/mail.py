"""The part of the proof ``leaver`` about mail: it goes on while its owner cannot sign in."""

from __future__ import annotations

import smtplib
from imaplib import IMAP4

import psycopg

from tests.proofs.play import Play
from yugum.core.verbs import Verb
from yugum.wire import plans as wl
from yugum_standins.load import advance
from yugum_standins.mail_store import MailStore
from yugum_standins.morrow import SHIP_MAIL

PASSWORD = "harbour-lantern-4"
APP_PASSWORD = "tablet-lantern-9"
OUTSIDE = "chandler@supplies.example"


def mail_goes_on(play: Play) -> None:
    """From the last day to the mailbox's end, by messages sent through and read."""
    report, store = play.report, play.stage.mail_stores[0]
    report.section("Mail goes on: forwarded, answered, handed over")
    who = play.organisation.of("Engine Room", "Second engineer", skip=1).user_name
    heir = next(p for p in play.organisation.people if p.title == "Head of Engine Room").user_name
    give_passwords(store, who)
    store.send(who, OUTSIDE, "Spare injectors")
    session = store.imap(who, PASSWORD)
    before = (_mailbox(store, who), store.subjects(who))
    docket = play.confirm(play.plan(Verb.LEAVER, who))
    report.equal("the docket is done", docket.state, "done")
    report.check("the open session is ended", not _alive(session))
    session.shutdown()
    for name, word in (("password", PASSWORD), ("app password", APP_PASSWORD)):
        report.check(f"IMAP refuses the {name}", not signs_in(store, who, word))
    store.send(who, OUTSIDE, "Invoice 7741")
    play.until(lambda: "Invoice 7741" in store.subjects(heir))
    report.check("what is sent now, the successor reads", "Invoice 7741" in store.subjects(heir))
    replies = [m["text"].strip() for m in play.post.mails(OUTSIDE)]
    report.check(
        "and the sender is told, in these words: " + (replies[-1] if replies else "none"),
        bool(replies) and who not in replies[-1],
        replies,
    )
    folder = f"Handed over/{who}/INBOX"
    report.equal("the old mail is with the successor", store.subjects(heir, folder), before[1])
    ground = [s.reason for s in docket.steps if s.item == "forward"]
    report.check("the ground is written down", "works agreement" in " ".join(ground), ground)
    advance(play.client, "+44d")
    store.send(who, OUTSIDE, "Invoice 7742")
    play.until(lambda: "Invoice 7742" in store.subjects(heir))
    advance(play.client, "+2d")
    settings = play.account(who, SHIP_MAIL).settings
    report.check("after 45 days nothing is forwarded any more", "forward" not in settings, settings)
    store.send(who, OUTSIDE, "Invoice 7743")
    got = store.subjects(heir)
    report.equal(
        "44 days later it was, 46 days later it is not",
        ("Invoice 7742" in got, "Invoice 7743" in got),
        (True, False),
    )
    advance(play.client, "+16d")
    report.check("parked, it takes no mail", not takes(store, who))
    advance(play.client, "+31d")
    report.equal("and then it is gone", _mailbox(store, who), None)
    report.equal(
        "the successor keeps what was handed over", store.subjects(heir, folder), before[1]
    )
    _undone(play, store, heir)


def _undone(play: Play, store: MailStore, heir: str) -> None:
    report = play.report
    who = play.organisation.of("Engine Room", "Second engineer", skip=2).user_name
    store.send(who, OUTSIDE, "Oil analysis")
    before = (_mailbox(store, who), store.subjects(who), play.account(who, SHIP_MAIL).settings)
    docket = play.confirm(play.plan(Verb.LEAVER, who, reason="a mistake"))
    folder = f"Handed over/{who}/INBOX"
    report.equal("another one leaves", store.subjects(heir, folder), ["Oil analysis"])
    play.confirm(play.client.plans.make(wl.NewPlan(verb=Verb.UNDO, docket=docket.number)))
    after = (_mailbox(store, who), store.subjects(who), play.account(who, SHIP_MAIL).settings)
    report.equal("undone: mailbox, mail and settings are as before", after, before)
    report.equal("and the successor's copy is gone", store.subjects(heir, folder), [])


def give_passwords(store: MailStore, login: str) -> None:
    """As the store's administrators would: nobody's real password is known here."""
    with psycopg.connect(store.url, autocommit=True) as connection:
        connection.execute(
            "UPDATE mailboxes SET password = '{PLAIN}' || %s WHERE login = %s", (PASSWORD, login)
        )
        connection.execute(
            "INSERT INTO app_passwords SELECT id, 'tablet', crypt(%s, gen_salt('bf', 4))"
            " FROM mailboxes WHERE login = %s",
            (APP_PASSWORD, login),
        )


def _mailbox(store: MailStore, login: str) -> tuple[object, ...] | None:
    with psycopg.connect(store.url) as connection:
        query = "SELECT state, alias, address, owner, quota_mb FROM mailboxes WHERE login = %s"
        return connection.execute(query, (login,)).fetchone()


def signs_in(store: MailStore, login: str, password: str) -> bool:
    try:
        store.imap(login, password).logout()
    except IMAP4.error:
        return False
    return True


def _alive(session: IMAP4) -> bool:
    try:
        return session.noop()[0] == "OK"
    except (IMAP4.error, OSError):
        return False


def takes(store: MailStore, login: str) -> bool:
    try:
        store.send(login, OUTSIDE, "Invoice 7744")
    except smtplib.SMTPException:
        return False
    return True
