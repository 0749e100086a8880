"""Worker of Yugum."""
