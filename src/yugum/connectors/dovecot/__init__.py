"""Dovecot mail stores: mailboxes in a PostgreSQL table, sessions by doveadm, mail by ManageSieve."""

from yugum.connectors.dovecot.connector import DovecotConnector, connect

__all__ = ["DovecotConnector", "connect"]
