"""Plans for operators: prepared, looked at, confirmed into dockets."""
