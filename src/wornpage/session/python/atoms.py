"""The ground on which values are told apart."""

from __future__ import annotations

ATOMS = (int, float, complex, bool, str, bytes, type(None), type(Ellipsis), type(NotImplemented))
"""Types whose values are told by writing them, and hold nothing else."""


class NoFingerprint(Exception):
    """A value that cannot be compared: generators, connections, what lies about itself."""
