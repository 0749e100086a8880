"""The key file: what encrypts secrets at rest and signs the audit log. Mode 0600, made once."""

from __future__ import annotations

import hmac
import json
import os
from hashlib import sha256
from pathlib import Path

from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from yugum.errors import ConfigError


class Keys:
    """Vault and signer in one: the newest encryption key seals, all of them open."""

    def __init__(self, encryption: list[str], signing: str) -> None:
        self._fernet = MultiFernet([Fernet(key) for key in encryption])
        self._digesting = hmac.digest(bytes.fromhex(signing), b"digests", "sha256")
        self._signing = Ed25519PrivateKey.from_private_bytes(bytes.fromhex(signing))

    @classmethod
    def load(cls, path: Path) -> Keys:
        """Read the key file, or make it; others must not be able to read it."""
        if not path.exists():
            path.parent.mkdir(parents=True, exist_ok=True)
            secret = Ed25519PrivateKey.generate().private_bytes_raw().hex()
            document = {"encryption": [Fernet.generate_key().decode()], "signing": secret}
            try:
                handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            except FileExistsError:
                return cls.load(path)
            with os.fdopen(handle, "w") as file:
                json.dump(document, file)
        if path.stat().st_mode & 0o077:
            raise ConfigError(
                f"The key file {path} can be read by others.", remedy=f"chmod 600 {path}"
            )
        document = json.loads(path.read_text())
        return cls(document["encryption"], document["signing"])

    def seal(self, text: str) -> bytes:
        return self._fernet.encrypt(text.encode())

    def open(self, cipher: bytes) -> str:
        try:
            return self._fernet.decrypt(cipher).decode()
        except InvalidToken as error:
            raise ConfigError(
                "A stored secret does not open with this installation's keys.",
                remedy="Use the key file this database was made with.",
            ) from error

    def digest(self, text: str) -> str:
        """HMAC-SHA256 (RFC 2104), cut to 128 bits; its key is made of the one that is never rotated."""
        return hmac.new(self._digesting, text.encode(), sha256).hexdigest()[:32]

    def sign(self, message: bytes) -> bytes:
        return self._signing.sign(message)

    @property
    def public_key(self) -> str:
        """The verifying key, hex (Ed25519, RFC 8032)."""
        raw = self._signing.public_key().public_bytes(
            serialization.Encoding.Raw, serialization.PublicFormat.Raw
        )
        return raw.hex()


def rotate(path: Path) -> None:
    """Put a new encryption key first; the old ones still open what they sealed."""
    document = json.loads(path.read_text())
    document["encryption"].insert(0, Fernet.generate_key().decode())
    temporary = path.with_suffix(".new")
    handle = os.open(temporary, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "w") as file:
        json.dump(document, file)
    temporary.replace(path)
