"""The application: API, database, printing and jobs around the pure core."""
