"""Client of Yugum."""
