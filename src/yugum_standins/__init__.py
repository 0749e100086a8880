"""Simulated applications for the demo and the tests; the product never imports them."""
