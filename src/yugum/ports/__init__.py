"""What the engine needs from outside, as Protocols, a module a noun; ``bootstrap`` provides it.

A store's method is documented here, where it is asked for. What it gives is a dataclass: one of the core,
or a read model beside its protocol.
"""
