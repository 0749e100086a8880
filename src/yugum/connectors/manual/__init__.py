"""Applications without an interface: what is to be done becomes a task for their owner."""

from yugum.connectors.manual.connector import ManualConnector, connect, connect_sign_on

__all__ = ["ManualConnector", "connect", "connect_sign_on"]
