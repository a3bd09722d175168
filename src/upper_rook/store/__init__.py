"""PostgreSQL through SQLModel: tables, migrations and queries."""
