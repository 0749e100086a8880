"""Tests. How fast cases are generated depends on what else the machine does, and fails nothing."""

from hypothesis import HealthCheck, settings

settings.register_profile(
    "any machine", deadline=None, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("any machine")
