"""Calendars of accounts, on a CalDAV server (RFC 4791)."""

from yugum.connectors.caldav.attached import Attached, Box, Options

__all__ = ["Attached", "Box", "Options"]
