"""The staff directory: a real LDAP server (slapd) started privately, with TLS and password policy."""

from __future__ import annotations

import datetime as dt
import ipaddress
import json
import os
import pwd
import secrets
import shutil
import subprocess
import time
import uuid
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

import bonsai
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from yugum.cluster import end, free_port, log_of
from yugum.errors import ConfigError

BASE = "dc=morrowsound,dc=example"
ADMIN = f"cn=yugum,{BASE}"
SCHEMA_FOLDER = Path("/etc/ldap/schema")
PROGRAM = Path("/usr/sbin/slapd")
# Attributes of our own below the UUID arc (ITU-T X.667), so that no number has to be registered.
ARC = f"2.25.{uuid.UUID('6f1d0c1e-5d0b-4c4b-9a53-0a7c0d1b7a11').int}"
SCHEMA = f"""
attributetype ( {ARC}.1 NAME 'yugumAccount' DESC 'Whose account this is'
  EQUALITY caseIgnoreMatch SYNTAX 1.3.6.1.4.1.1466.115.121.1.15 SINGLE-VALUE )
attributetype ( {ARC}.2 NAME 'yugumHidden' DESC 'Hidden from the address book'
  EQUALITY booleanMatch SYNTAX 1.3.6.1.4.1.1466.115.121.1.7 SINGLE-VALUE )
attributetype ( {ARC}.3 NAME 'yugumAlias' DESC 'A former login or address'
  EQUALITY caseIgnoreMatch SYNTAX 1.3.6.1.4.1.1466.115.121.1.15 )
objectclass ( {ARC}.4 NAME 'yugumPerson' SUP top AUXILIARY
  MAY ( yugumAccount $ yugumHidden $ yugumAlias ) )
"""
CONFIG = """
include {schemas}/core.schema
include {schemas}/cosine.schema
include {schemas}/inetorgperson.schema
include {schemas}/nis.schema
include {folder}/yugum.schema
modulepath /usr/lib/ldap
moduleload back_mdb
moduleload memberof
moduleload refint
moduleload ppolicy
pidfile {folder}/slapd.pid
TLSCertificateFile {folder}/cert.pem
TLSCertificateKeyFile {folder}/key.pem
TLSProtocolMin 3.3
sizelimit unlimited
database mdb
suffix "{base}"
rootdn "{admin}"
rootpw {password}
directory {folder}/data
maxsize 268435456
dbnosync
index objectClass,uid,cn,entryUUID,member,memberOf,yugumAccount eq
access to attrs=userPassword by anonymous auth by self write by * none
access to * by * read
overlay memberof
memberof-group-oc groupOfNames
overlay refint
refint_attributes member manager
refint_nothing "{base}"
overlay ppolicy
ppolicy_default "cn=default,ou=policies,{base}"
ppolicy_hash_cleartext
ppolicy_use_lockout
"""


@dataclass(slots=True)
class Directory:
    """One slapd in ``folder``; ends with its parent."""

    folder: Path
    process: subprocess.Popen[bytes] | None = None

    @property
    def _notes(self) -> Path:
        return self.folder / "directory.json"

    @property
    def password(self) -> str:
        return str(json.loads(self._notes.read_text())["password"])

    @property
    def url(self) -> str:
        return f"ldaps://127.0.0.1:{json.loads(self._notes.read_text())['port']}"

    @property
    def ca_file(self) -> str:
        return str(self.folder / "cert.pem")

    @property
    def options(self) -> dict[str, str]:
        return {"base": BASE, "bind": ADMIN, "ca_file": self.ca_file}

    def start(self, entries: Iterable[bonsai.LDAPEntry] = ()) -> None:
        """Start it; a new one is filled with ``entries``."""
        if not PROGRAM.exists():
            raise ConfigError("slapd is not installed.", remedy="Install Debian's package slapd.")
        fresh = not self._notes.exists()
        if fresh:
            self._make()
        notes = json.loads(self._notes.read_text())
        notes["port"] = free_port(notes.get("port") or 0)
        self._notes.write_text(json.dumps(notes))
        words = ["setpriv", "--pdeathsig", "TERM"]
        if os.geteuid() == 0:
            words += ["--reuid=postgres", "--regid=postgres", "--init-groups"]
        command = [*words, "--", str(PROGRAM), "-f", f"{self.folder}/slapd.conf"]
        with log_of(self.folder / "server.log") as log:
            self.process = subprocess.Popen(
                [*command, "-h", f"ldaps://127.0.0.1:{notes['port']}/", "-d", "stats"],
                stdout=log,
                stderr=log,
                stdin=subprocess.DEVNULL,
                start_new_session=True,
            )
        self._wait()
        if fresh:
            self._fill(entries)

    def _make(self) -> None:
        (self.folder / "data").mkdir(parents=True, exist_ok=True)
        password = secrets.token_urlsafe(18)
        (self.folder / "yugum.schema").write_text(SCHEMA)
        (self.folder / "slapd.conf").write_text(
            CONFIG.format(
                schemas=SCHEMA_FOLDER,
                folder=self.folder,
                base=BASE,
                admin=ADMIN,
                password=password,
            )
        )
        _certificate(self.folder)
        if os.geteuid() == 0:
            # slapd must not run as root; the database's system user is there already.
            user = pwd.getpwnam("postgres")
            for path in (self.folder, *self.folder.rglob("*")):
                os.chown(path, user.pw_uid, user.pw_gid)
        for name in ("slapd.conf", "key.pem"):
            (self.folder / name).chmod(0o600)
        self._notes.touch(mode=0o600)
        self._notes.write_text(json.dumps({"password": password, "port": 0}))

    def client(self, user: str = ADMIN, password: str | None = None) -> bonsai.LDAPClient:
        made = bonsai.LDAPClient(self.url)
        made.set_ca_cert(self.ca_file)
        made.set_credentials(
            "SIMPLE", user=user, password=self.password if password is None else password
        )
        return made

    def _wait(self) -> None:
        deadline = time.monotonic() + 20
        while True:
            try:
                self.client().connect(timeout=2).close()
            except bonsai.LDAPError as error:
                ended = self.process is not None and self.process.poll() is not None
                if ended or time.monotonic() > deadline:
                    tail = (self.folder / "server.log").read_text(errors="replace")[-1500:]
                    raise ConfigError(f"slapd does not start:\n{tail}") from error
                time.sleep(0.05)
            else:
                return

    def _fill(self, entries: Iterable[bonsai.LDAPEntry]) -> None:
        with self.client().connect(timeout=10) as connection:
            for entry in (*_frame(), *entries):
                connection.add(entry)

    def stop(self) -> None:
        end(self.process)

    def destroy(self) -> None:
        self.stop()
        shutil.rmtree(self.folder, ignore_errors=True)


def _frame() -> list[bonsai.LDAPEntry]:
    """The containers and the default password policy."""
    top = bonsai.LDAPEntry(BASE)
    top["objectClass"] = ["dcObject", "organization"]
    top["dc"], top["o"] = ["morrowsound"], ["Morrow Sound Ferries"]
    found = [top]
    for name in ("people", "leavers", "groups", "policies"):
        unit = bonsai.LDAPEntry(f"ou={name},{BASE}")
        unit["objectClass"], unit["ou"] = ["organizationalUnit"], [name]
        found.append(unit)
    policy = bonsai.LDAPEntry(f"cn=default,ou=policies,{BASE}")
    policy["objectClass"] = ["pwdPolicy", "device"]
    policy["cn"], policy["pwdAttribute"] = ["default"], ["userPassword"]
    policy["pwdLockout"], policy["pwdMinLength"] = ["TRUE"], [12]
    policy["pwdMustChange"] = ["TRUE"]
    found.append(policy)
    return found


def person_entry(
    login: str,
    given: str,
    family: str,
    number: str,
    password: str = "",
    manager: str = "",
    more: Mapping[str, str] | None = None,
) -> bonsai.LDAPEntry:
    """An entry as the directory's own administrators make them."""
    entry = bonsai.LDAPEntry(f"uid={login},ou=people,{BASE}")
    entry["objectClass"] = ["inetOrgPerson", "posixAccount", "yugumPerson"]
    entry["cn"], entry["sn"] = [f"{given} {family}".strip()], [family]
    entry["uidNumber"], entry["gidNumber"] = [20000 + int(number or 0) % 1_000_000], [100]
    entry["homeDirectory"] = [f"/home/{login}"]
    if given:
        entry["givenName"] = [given]
    if number:
        entry["employeeNumber"] = [number]
    if password:
        entry["userPassword"] = [password]
    if manager:
        entry["manager"] = [f"uid={manager},ou=people,{BASE}"]
    for name, value in (more or {}).items():
        if value:
            entry[name] = [value]
    return entry


def group_entry(
    name: str, members: Iterable[str], owner: str = "", see_also: Iterable[str] = ()
) -> bonsai.LDAPEntry:
    """A group of people (by login) and of groups (``group:NAME``), whose it is, and whom to ask."""
    entry = bonsai.LDAPEntry(f"cn={name},ou=groups,{BASE}")
    entry["objectClass"], entry["cn"] = ["groupOfNames"], [name]
    entry["member"] = [
        f"cn={m[6:]},ou=groups,{BASE}" if m.startswith("group:") else f"uid={m},ou=people,{BASE}"
        for m in members
    ] or [BASE]
    if owner:
        entry["owner"] = [f"uid={owner},ou=people,{BASE}"]
    if asked := [f"uid={m},ou=people,{BASE}" for m in see_also]:
        entry["seeAlso"] = asked
    return entry


def _certificate(folder: Path) -> None:
    """A certificate for loopback that is its own authority."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "staff directory")])
    now = dt.datetime.now(dt.UTC)
    certificate = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - dt.timedelta(days=1))
        .not_valid_after(now + dt.timedelta(days=3650))
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(
            x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address("127.0.0.1"))]),
            critical=False,
        )
        .sign(key, hashes.SHA256())
    )
    (folder / "cert.pem").write_bytes(certificate.public_bytes(serialization.Encoding.PEM))
    (folder / "key.pem").write_bytes(
        key.private_bytes(
            serialization.Encoding.PEM,
            serialization.PrivateFormat.PKCS8,
            serialization.NoEncryption(),
        )
    )
