"""The HTTP service: routers by noun, errors, authentication, the console's files."""
