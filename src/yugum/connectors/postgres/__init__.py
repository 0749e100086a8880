"""Postgres of Yugum."""
