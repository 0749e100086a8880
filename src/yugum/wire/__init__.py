"""Wire of Yugum."""
