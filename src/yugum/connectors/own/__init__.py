"""Steps of the organisation's own: a signed web hook, or a local program, as an application."""

from yugum.connectors.own.hook import connect_hook
from yugum.connectors.own.script import connect_script

__all__ = ["connect_hook", "connect_script"]
