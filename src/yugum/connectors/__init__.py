"""Connectors of Yugum."""
