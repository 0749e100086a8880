"""What those who are invited are told by mail (iMIP, RFC 6047)."""

from __future__ import annotations

from dataclasses import dataclass
from email.message import EmailMessage
from email.policy import SMTPUTF8
from email.utils import formataddr
from hashlib import sha256

import aiosmtplib
from icalendar import Calendar

from yugum.connectors.caldav.meetings import Who, message, title, uid_of
from yugum.errors import ApplicationUnavailable, InvalidInput

WORDS = {"REQUEST": "Updated", "CANCEL": "Cancelled"}


@dataclass(frozen=True, slots=True)
class Notices:
    """Sends through the mail server ``host:port``."""

    name: str
    host: str
    port: int
    timeout: float

    @classmethod
    def of(cls, name: str, address: str, timeout: float) -> Notices:
        host, _, port = address.rpartition(":")
        if not host or not port.isdigit():
            raise InvalidInput(
                f"The option smtp of {name} is no address.",
                place="options.smtp",
                remedy="Give host:port.",
            )
        return cls(name, host, int(port), timeout)

    async def send(
        self, calendar: Calendar, method: str, sender: Who, to: list[str], text: str
    ) -> None:
        """One message to all of them; sent again it has the same id, by which it is told apart.

        Whom the mail server refuses for good is not told: nothing would be gained by trying again.

        Raises:
            ApplicationUnavailable: the mail server does not take it now.
        """
        if not to:
            return
        body = message(calendar, method)
        mail = EmailMessage(policy=SMTPUTF8)
        mail["From"] = formataddr((sender.name, sender.address))
        mail["To"] = ", ".join(to)
        mail["Subject"] = f"{WORDS[method]}: {' '.join(title(calendar).split())}"
        once = sha256(f"{uid_of(calendar)} {method} {sender.address} {len(body)}".encode())
        mail["Message-ID"] = f"<{once.hexdigest()[:32]}@{sender.address.rsplit('@', 1)[-1]}>"
        mail["Auto-Submitted"] = "auto-generated"
        mail.set_content(text)
        mail.add_alternative(body, subtype="calendar", params={"method": method})
        try:
            await aiosmtplib.send(mail, hostname=self.host, port=self.port, timeout=self.timeout)
        except aiosmtplib.SMTPRecipientsRefused as refused:
            if all(500 <= one.code < 600 for one in refused.recipients):
                return
            raise self._away(refused) from refused
        except aiosmtplib.SMTPResponseException as answered:
            if 500 <= answered.code < 600:
                return
            raise self._away(answered) from answered
        except (aiosmtplib.SMTPException, OSError) as error:
            raise self._away(error) from error

    def _away(self, error: Exception) -> ApplicationUnavailable:
        return ApplicationUnavailable(
            f"{self.name}: the mail server takes no notice ({type(error).__name__})."
        )
