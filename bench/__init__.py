"""Measurements, each against a bare counterpart in the same run."""
