"""SCIM 2.0 over HTTP (RFC 7643, RFC 7644), with the extension in docs/reference/scim-extension.md."""

from yugum.connectors.scim.connector import ScimConnector

__all__ = ["ScimConnector"]
