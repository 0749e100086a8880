"""Migrations of Yugum."""
