"""SQLAlchemy models, migrations, queries and the log of edits."""
