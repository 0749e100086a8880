"""The typed client library: the same nouns as the API, synchronous, over HTTP."""

from yugum.client.client import Client

__all__ = ["Client"]
