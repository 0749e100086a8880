"""Cli of Yugum."""
