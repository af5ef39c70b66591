"""What the rest of the server stands on: settings, errors, log-ins, the database."""
