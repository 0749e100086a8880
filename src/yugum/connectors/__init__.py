"""Connectors: one package per protocol; each speaks to one kind of application."""
