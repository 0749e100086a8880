"""Registers the queue's task and runs the engine's worker."""
