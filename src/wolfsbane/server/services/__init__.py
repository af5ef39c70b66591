"""What the server does: one module per matter, each with the SQL it needs by name."""
