"""Requests and responses as Pydantic models, shared by service and client."""
