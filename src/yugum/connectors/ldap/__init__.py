"""LDAP directories (RFC 4510): people as entries, groups as entitlements."""

from yugum.connectors.ldap.connector import LdapConnector, connect

__all__ = ["LdapConnector", "connect"]
