"""Who made a trace: a signature with a key that only this user has. Others' traces are never used."""

from __future__ import annotations

import hashlib
import hmac
import json
import os
import secrets
from functools import cache
from pathlib import Path
from typing import Any


def key_file() -> Path:
    """Where the user's key lies."""
    base = os.environ.get("XDG_CONFIG_HOME") or str(Path("~/.config").expanduser())
    return Path(base) / "wornpage" / "key"


@cache
def user_key() -> bytes:
    """The user's key, made at first use; one for this process alone where it cannot be kept."""
    path = key_file()
    try:
        return bytes.fromhex(path.read_text(encoding="ascii"))
    except (OSError, ValueError):
        key = secrets.token_bytes(32)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w", encoding="ascii") as file:
            file.write(key.hex())
    except FileExistsError:
        return bytes.fromhex(path.read_text(encoding="ascii"))
    except OSError:
        pass
    return key


def _signature(body: bytes) -> str:
    return hmac.new(user_key(), body, hashlib.blake2b).hexdigest()[:64]


def sealed(data: Any) -> bytes:
    """`data` as JSON with this user's signature before it."""
    body = json.dumps(data, ensure_ascii=False, separators=(",", ":")).encode("utf-8", "surrogatepass")
    return _signature(body).encode() + b"\n" + body


def opened(raw: bytes) -> Any:
    """The data of `sealed`. Raises `ValueError` if it is damaged or somebody else's."""
    signature, _, body = raw.partition(b"\n")
    if not hmac.compare_digest(signature, _signature(body).encode()):
        raise ValueError("not signed by this user")
    return json.loads(body.decode("utf-8", "surrogatepass"))


def body_of(raw: bytes) -> bytes:
    """What was signed, whoever signed it."""
    return raw.partition(b"\n")[2]


def resealed(raw: bytes) -> bytes:
    """The same with this user's signature: the user vouches for it."""
    body = body_of(raw)
    return _signature(body).encode() + b"\n" + body
