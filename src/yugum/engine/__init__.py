"""Use cases over the ports, offered together as ``engine.services.Services``."""
