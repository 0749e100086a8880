"""Api of Yugum."""
