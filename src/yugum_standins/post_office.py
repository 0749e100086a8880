"""A mail sink and relay: takes every mail by SMTP and shows what arrived, at ``/panel/mails``.

What is for a mailbox of the mail store is handed on to it by LMTP (RFC 2033).
"""

from __future__ import annotations

import asyncio
import email
import email.policy
import html
import json
import smtplib
from contextlib import suppress
from pathlib import Path
from typing import Any

import click
from aiohttp import web
from aiosmtpd.smtp import SMTP, Envelope, Session

from yugum.cluster import die_with_parent, log_of


class Sink:
    """Keeps mails in the order in which they arrived, also over a restart."""

    def __init__(self, data: Path | None, lmtp_port: int = 0) -> None:
        self._data = data
        self._lmtp_port = lmtp_port
        self.mails: list[dict[str, str]] = []
        self.refuse = ""
        self.delay = 0.0
        if data is not None and data.exists():
            self.mails = [json.loads(line) for line in data.read_text().splitlines()]

    async def handle_DATA(self, _server: SMTP, _session: Session, envelope: Envelope) -> str:  # noqa: N802 - aiosmtpd's name
        if self.refuse:
            return f"451 {self.refuse}"
        await asyncio.sleep(self.delay)
        raw = envelope.content or b""
        content = raw if isinstance(raw, bytes) else raw.encode()
        message = email.message_from_bytes(content, policy=email.policy.default)
        body = message.get_body(("plain",))
        invitation = message.get_body(("calendar",))
        mail = {
            "id": str(message["Message-ID"] or ""),
            "to": ", ".join(envelope.rcpt_tos),
            "subject": str(message["Subject"] or ""),
            "from": str(message["From"] or ""),
            "text": str(body.get_content()) if body is not None else "",
            "calendar": str(invitation.get_content()) if invitation is not None else "",
        }
        known = next((m for m in self.mails if mail["id"] and m["id"] == mail["id"]), None)
        if known is not None:
            known["times"] = str(int(known["times"]) + 1)
        else:
            mail["times"] = "1"
            self.mails.append(mail)
            if self._data is not None:
                with log_of(self._data) as file:
                    file.write(json.dumps(mail).encode() + b"\n")
        if self._lmtp_port:
            await asyncio.to_thread(
                self._hand_on, envelope.mail_from or "", envelope.rcpt_tos, content
            )
        return "250 taken"

    def _hand_on(self, sender: str, recipients: list[str], content: bytes) -> None:
        """To the mail store, which refuses whoever has no mailbox there."""
        with (
            suppress(smtplib.SMTPException, OSError),
            smtplib.LMTP("127.0.0.1", self._lmtp_port, timeout=10) as store,
        ):
            store.sendmail(sender, recipients, content)

    # --- the panel ---------------------------------------------------------------------------

    async def health(self, _: web.Request) -> web.Response:
        return web.json_response({"ok": True, "mails": len(self.mails)})

    async def listed(self, request: web.Request) -> web.Response:
        to = request.query.get("to", "")
        return web.json_response([m for m in self.mails if to in m["to"]])

    async def fault(self, request: web.Request) -> web.Response:
        said = await request.json()
        self.refuse = str(said.get("refuse", ""))
        self.delay = float(said.get("delay_ms", 0)) / 1000
        return web.json_response({"refuse": self.refuse, "delay_ms": self.delay * 1000})

    async def page(self, _: web.Request) -> web.Response:
        rows = "".join(
            f"<h2>{html.escape(m['subject'])}</h2><p>to {html.escape(m['to'])}</p>"
            f"<pre>{html.escape(m['text'])}</pre>"
            for m in reversed(self.mails)
        )
        text = f"<!doctype html><title>Post office</title><h1>Post office</h1>{rows}"
        return web.Response(text=text, content_type="text/html")


async def _run(port: int, smtp_port: int, sink: Sink) -> None:
    app = web.Application()
    app.add_routes(
        [
            web.get("/", sink.page),
            web.get("/panel/health", sink.health),
            web.get("/panel/mails", sink.listed),
            web.put("/panel/faults", sink.fault),
        ]
    )
    runner = web.AppRunner(app, access_log=None)
    await runner.setup()
    await web.TCPSite(runner, "127.0.0.1", port).start()

    def protocol() -> Any:
        return SMTP(sink, hostname="post.morrowsound.example", enable_SMTPUTF8=True)

    server = await asyncio.get_running_loop().create_server(protocol, "127.0.0.1", smtp_port)
    async with server:
        await server.serve_forever()


@click.command()
@click.option("--port", type=int, required=True)
@click.option("--smtp-port", type=int, required=True)
@click.option("--lmtp-port", type=int, default=0)
@click.option("--data", type=click.Path(path_type=Path), default=None)
@click.option("--with-parent", is_flag=True)
def main(port: int, smtp_port: int, lmtp_port: int, data: Path | None, with_parent: bool) -> None:
    """Run the sink."""
    if with_parent:
        die_with_parent()
    asyncio.run(_run(port, smtp_port, Sink(data, lmtp_port)))


if __name__ == "__main__":
    main()
