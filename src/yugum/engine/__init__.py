"""Engine of Yugum."""
