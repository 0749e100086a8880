"""Dovecot mail stores: mailboxes in a PostgreSQL table, sessions by doveadm, mail by ManageSieve."""

from yugum.connectors.dovecot.opening import connect

__all__ = ["connect"]
