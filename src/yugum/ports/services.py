"""What the engine needs from outside beside stores and connectors."""

from __future__ import annotations

from typing import Protocol


class Vault(Protocol):
    """Encrypts what must not lie around in clear."""

    def seal(self, text: str) -> bytes:
        """A text, encrypted with the newest key."""
        ...

    def open(self, cipher: bytes) -> str:
        """What was sealed with any key there has been.

        Raises:
            ConfigError: it was sealed by another installation.
        """
        ...

    def digest(self, text: str) -> str:
        """32 hexadecimal digits, always the same for a text, that nobody makes without the keys."""
        ...


class Mailer(Protocol):
    """Hands one mail over to a mail server."""

    async def send(self, mail_id: str, address: str, subject: str, text: str) -> None:
        """Hand a mail over; its id becomes its Message-ID.

        Raises:
            MailFailed: the server does not take it now.
        """
        ...


class Signer(Protocol):
    """Signs the heads of the audit log (Ed25519)."""

    def sign(self, message: bytes) -> bytes:
        """The signature of a message (RFC 8032)."""
        ...
