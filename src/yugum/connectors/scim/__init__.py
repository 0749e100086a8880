"""Scim of Yugum."""
