"""The command line: Click commands by noun; output as table, JSON or CSV."""
