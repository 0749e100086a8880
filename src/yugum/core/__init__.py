"""Pure computation: frozen dataclasses and functions; no I/O, no clock, no randomness."""
