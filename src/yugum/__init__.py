"""Yugum runs joiner, mover and leaver work for application accounts."""

__version__ = "0.1.0"
