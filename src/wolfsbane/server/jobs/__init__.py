"""Background work: a queue on the same PostgreSQL."""
