"""Starting and founding: the start command, PostgreSQL, the demo school, warm-up."""
