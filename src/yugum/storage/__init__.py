"""SQLAlchemy tables and stores on PostgreSQL; nothing above this package sees SQLAlchemy."""
