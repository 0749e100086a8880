"""PostgreSQL as an application: login roles as accounts, group roles as entitlements."""

from yugum.connectors.postgres.connector import PostgresConnector

__all__ = ["PostgresConnector"]
