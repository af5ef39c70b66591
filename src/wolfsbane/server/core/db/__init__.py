"""PostgreSQL: the pool, named SQL, migrations. Nothing else imports psycopg."""
