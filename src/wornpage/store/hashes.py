"""Hashes of content. The fast kinds come from packages that the environment of a page need not have: there those of Python's own do.

Both ends of a session must say the same of a file: which kind is used is decided by the near end, for all that it starts.
"""

from __future__ import annotations

import hashlib
import os
from typing import Any, Protocol


class Hash(Protocol):
    """What is made of what was added to it."""

    def update(self, data: Any, /) -> None: ...

    def digest(self) -> bytes: ...

    def hexdigest(self) -> str: ...


PLAIN = "WORN_PLAIN_HASHES"
"""The variable that tells a session to use Python's own."""
_plain = [os.environ.pop(PLAIN, "") == "1"]


def use_plain(wanted: bool) -> None:
    """From now on, Python's own hashes are used, or not."""
    _plain[0] = wanted


def is_plain() -> bool:
    """Whether they are."""
    return _plain[0]


def hash128(data: Any = b"") -> Hash:
    """A hash of 128 bits to which more can be added."""
    if _plain[0]:
        return hashlib.blake2b(data, digest_size=16)
    from xxhash import xxh3_128

    return xxh3_128(data)


def hash64(data: Any = b"") -> Hash:
    """A hash of 64 bits to which more can be added."""
    if _plain[0]:
        return hashlib.blake2b(data, digest_size=8)
    from xxhash import xxh3_64

    return xxh3_64(data)


def address_of(data: Any, large: bool = False) -> str:
    """Where bytes lie in a store."""
    if _plain[0]:
        return "00" + hashlib.blake2b(data, digest_size=31).hexdigest()
    from blake3 import blake3

    found: str = blake3(data, max_threads=blake3.AUTO if large else 1).hexdigest()
    return found


def is_at_home(data: Any, address: str) -> bool:
    """Whether bytes are those of an address, whichever kind of hash it was made with."""
    if address.startswith("00") and hashlib.blake2b(data, digest_size=31).hexdigest() == address[2:]:
        return True
    try:
        from blake3 import blake3
    except ImportError:
        return False
    return bool(blake3(data).hexdigest() == address)
