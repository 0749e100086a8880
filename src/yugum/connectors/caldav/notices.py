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
from yugum.errors import ApplicationRejected, ApplicationUnavailable, InvalidInput

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
    ) -> list[str]:
        """One message to all of them; sent again it has the same id, by which it is told apart.

        Returns whom the mail server refuses, of all for good: nobody else waits for them.

        Raises:
            ApplicationUnavailable: the mail server does not take it now.
            ApplicationRejected: it takes nothing from us.
        """
        if not to:
            return []
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
            refused, _ = await aiosmtplib.send(
                mail, hostname=self.host, port=self.port, timeout=self.timeout
            )
        except aiosmtplib.SMTPRecipientsRefused as error:
            if any(one.code < 500 for one in error.recipients):
                raise self._away(error) from error
            return [one.recipient for one in error.recipients]
        except aiosmtplib.SMTPResponseException as error:
            if error.code < 500:
                raise self._away(error) from error
            raise ApplicationRejected(
                f"{self.name}: the mail server takes no notice from us ({error.code}).",
                remedy="Let it take mail of these senders from Yugum, or correct the option smtp.",
            ) from error
        except (aiosmtplib.SMTPException, OSError) as error:
            raise self._away(error) from error
        return list(refused)

    def _away(self, error: Exception) -> ApplicationUnavailable:
        return ApplicationUnavailable(
            f"{self.name}: the mail server takes no notice ({type(error).__name__})."
        )
