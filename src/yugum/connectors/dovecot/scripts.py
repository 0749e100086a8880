"""Sieve scripts put and taken away by ManageSieve (RFC 5804), as the store's master user."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace

from sievelib.managesieve import Client, Error

from yugum.connectors.dovecot.layout import SCRIPT, Sieve, read
from yugum.connectors.web import loopback
from yugum.errors import ApplicationRejected, ApplicationUnavailable
from yugum.ports.connectors import ConnectorSpec

# `Scripts.of` allows it to a loopback address only.
warnings.filterwarnings("ignore", "Credentials are sent over an unencrypted", UserWarning)


@dataclass(frozen=True, slots=True)
class Scripts:
    """One store's scripts. Every call blocks, so it belongs in a thread."""

    name: str
    host: str
    port: int
    master: str
    password: str
    starttls: bool
    timeout: float

    @classmethod
    def of(cls, spec: ConnectorSpec, password: str) -> Scripts:
        """From the options sieve (``host:port``), master and starttls.

        Raises:
            ApplicationRejected: the port is none, or a password would travel in clear.
        """
        host, _, port = spec.options["sieve"].rpartition(":")
        starttls = spec.options.get("starttls") == "yes"
        if not host or not port.isdigit():
            raise ApplicationRejected(
                f"The option sieve of {spec.name} is no address.", remedy="Give host:port."
            )
        if not starttls and not loopback(host):
            raise ApplicationRejected(
                f"ManageSieve of {spec.name} would be spoken in clear over the network.",
                remedy="Set the option starttls to yes.",
            )
        master = spec.options["master"]
        return cls(spec.name, host, int(port), master, password, starttls, spec.timeout)

    def change(
        self, login: str, name: str, value: str, ground: str, addresses: tuple[str, ...]
    ) -> None:
        """Set ``forward`` or ``reply`` of a mailbox, nothing when ``value`` is empty.

        The owner's own active script is included in ours, and active again after it.
        """
        with self._signed_in(login) as client:
            active, others = client.listscripts() or ("", [])
            there = SCRIPT in (active, *others)
            known = read(client.getscript(SCRIPT) or "") if there else None
            before = known or Sieve(earlier=active if active and active != SCRIPT else "")
            wanted = replace(before, **{name: value}, ground=ground, addresses=addresses)
            if wanted.settings():
                if not client.putscript(SCRIPT, wanted.text()):
                    raise ApplicationRejected(
                        f"{self.name} refuses the script for {name}: {_words(client.errmsg)}",
                        remedy="Correct the setting's value.",
                    )
                client.setactive(SCRIPT)
            elif there:
                client.setactive(wanted.earlier)
                client.deletescript(SCRIPT)

    def sign_in(self, login: str, password: str) -> None:
        """Sign in once as the mailbox itself.

        Raises:
            ApplicationRejected: the store does not let it in.
        """
        client = Client(self.host, self.port)
        client.read_timeout = max(1, int(self.timeout))
        try:
            if not client.connect(login, password, starttls=self.starttls, authmech="PLAIN"):
                raise ApplicationRejected(
                    f"{self.name} does not let the new mailbox {login} sign in: "
                    f"{_words(client.errmsg)}",
                    remedy="Look at the store's log; then retry the step.",
                )
        except (Error, OSError) as error:
            raise ApplicationUnavailable(f"{self.name}: ManageSieve fails: {error}") from error
        finally:
            with suppress(Error, OSError, AttributeError):
                client.logout()

    @contextmanager
    def _signed_in(self, login: str) -> Iterator[Client]:
        client = Client(self.host, self.port)
        client.read_timeout = max(1, int(self.timeout))
        try:
            user = f"{login}*{self.master}"
            if not client.connect(user, self.password, starttls=self.starttls, authmech="PLAIN"):
                raise ApplicationRejected(
                    f"{self.name} refuses its master user for {login}.",
                    remedy="Only an active or suspended mailbox has scripts; check the password.",
                )
            yield client
        except (Error, OSError) as error:
            raise ApplicationUnavailable(f"{self.name}: ManageSieve fails: {error}") from error
        finally:
            with suppress(Error, OSError, AttributeError):
                client.logout()


def _words(message: bytes | str) -> str:
    return message.decode(errors="replace") if isinstance(message, bytes) else message
