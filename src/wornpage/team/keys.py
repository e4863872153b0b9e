"""Who signs what is shared, and whom the user trusts: keys of Ed25519 (RFC 8032)."""

from __future__ import annotations

import re
from pathlib import Path

from msgspec import Struct

from wornpage.store.place import write_whole
from wornpage.store.signing import key_file, secret_in
from wornpage.tree.problem import UsageError

_SIGN = "ed25519:"
_KEY = re.compile(r"(?:ed25519:)?([0-9a-fA-F]{64})")


class Trusted(Struct, frozen=True):
    """Someone whose runs are taken."""

    key: str
    """64 hexadecimal digits."""
    name: str

    def __str__(self) -> str:
        return f"{said(self.key)}  {self.name}".rstrip()


def _own_file() -> Path:
    return key_file().with_name("team-key")


def _trusted_file() -> Path:
    return key_file().with_name("trusted")


def own_secret() -> bytes:
    """The secret that the user signs with, made at first use. Raises `WornError` for a file that holds none."""
    return secret_in(_own_file())


def is_kept() -> bool:
    """Whether the user's secret could be kept: what another signs each time is of use to nobody."""
    return _own_file().exists()


def own_key() -> str:
    """The user's public key, in hexadecimal digits."""
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    return Ed25519PrivateKey.from_private_bytes(own_secret()).public_key().public_bytes_raw().hex()


def said(key: str) -> str:
    """A public key as it is given to others."""
    return f"{_SIGN}{key}"


def trusted() -> dict[str, Trusted]:
    """Those whom the user trusts, by key; lines that hold no key are none."""
    try:
        lines = _trusted_file().read_text(encoding="utf-8").splitlines()
    except (OSError, UnicodeDecodeError):
        return {}
    found = (line.strip().partition(" ") for line in lines)
    keys = ((_KEY.fullmatch(key), name.strip()) for key, _, name in found)
    return {match[1].lower(): Trusted(match[1].lower(), name) for match, name in keys if match}


def whose_are_taken() -> dict[str, Trusted]:
    """Those whom the user trusts, and the user, who may work on several machines."""
    try:
        own = {own_key(): Trusted(own_key(), "you")} if is_kept() else {}
    except ImportError:
        own = {}
    return own | trusted()


def trust(key: str, name: str) -> Trusted:
    """Take the runs of whoever has this key from now on. Raises `UsageError` for what is no key."""
    match = _KEY.fullmatch(key.strip())
    if match is None:
        raise UsageError(f"{key!r} is no key: `worn store key` prints one's own, which begins with {_SIGN!r}.")
    one = Trusted(match[1].lower(), " ".join(name.split()))
    _keep({**trusted(), one.key: one})
    return one


def distrust(who: str) -> Trusted:
    """Take no more runs of someone, by key or by name. Raises `UsageError` where nobody, or several, are called so."""
    known = trusted()
    plain = who.strip().lower().removeprefix(_SIGN)
    found = [one for one in known.values() if plain in {one.key, one.name.lower()}]
    if len(found) != 1:
        count = f"{len(found)} of those you trust are" if found else "nobody whom you trust is"
        raise UsageError(f"{count} called {who!r}: `worn store trust` lists them with their keys.")
    _keep({key: one for key, one in known.items() if one is not found[0]})
    return found[0]


def _keep(known: dict[str, Trusted]) -> None:
    path = _trusted_file()
    data = "".join(f"{one}\n" for one in known.values()).encode()
    write_whole(path, data)
    if not path.exists() or path.read_bytes() != data:
        raise UsageError(f"{path} cannot be written.")
