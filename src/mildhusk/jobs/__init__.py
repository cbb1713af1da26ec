"""Background work on the PostgreSQL queue; a worker anywhere needs only the database's address."""
