"""A SCIM server that is not ours, made of a library for Django."""
