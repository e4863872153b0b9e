"""Who made a trace: a signature with a key that only this user has. Others' traces are never used."""

from __future__ import annotations

import hashlib
import hmac
import json
import os
from functools import cache
from pathlib import Path

TYPE_CHECKING = False
if TYPE_CHECKING:
    from typing import Any

    from wornpage.tree.problem import WornError


def key_file() -> Path:
    """Where the user's key lies."""
    base = os.environ.get("XDG_CONFIG_HOME") or str(Path("~/.config").expanduser())
    return Path(base) / "wornpage" / "key"


def user_key() -> bytes:
    """The key that the user signs with what is kept here. Raises `WornError`."""
    return secret_in(key_file())


@cache
def secret_in(path: Path) -> bytes:
    """The secret in a file, made at first use; one for this process alone where it cannot be kept. Raises `WornError`."""
    try:
        return _read_key(path)
    except FileNotFoundError:
        key = os.urandom(_KEY_BYTES)
    except OSError:
        return os.urandom(_KEY_BYTES)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        part = path.with_name(f"{path.name}.{os.getpid()}.part")
        handle = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w", encoding="ascii") as file:
            file.write(key.hex())
        try:
            os.link(part, path)  # whole or not at all, and never over one that is there
        finally:
            part.unlink()
    except FileExistsError:
        return _read_key(path)
    except OSError:
        pass
    return key


_KEY_BYTES = 32


def _read_key(path: Path) -> bytes:
    """The key in a file. Raises `WornError` for a file that holds none, `OSError`."""
    raw = path.read_bytes()[:1_000]
    try:
        key = bytes.fromhex(raw.decode("ascii"))
    except ValueError:
        key = b""
    if len(key) != _KEY_BYTES:
        raise _no_key(path, len(raw))
    return key


def _no_key(path: Path, size: int) -> WornError:
    """What is there is never used, nor silently replaced, since others may sign with it."""
    from wornpage.tree.problem import Problem, WornError
    from wornpage.tree.span import Span

    what = f"this file, with which you sign what is kept between pressings or shared, holds no key ({size} bytes)."
    hint = "Put back a copy of it; or remove it: a new one is made, and every chunk runs once more."
    return WornError([Problem(Span(str(path), 1), what, hint)])


def _signature(body: bytes, place: str) -> str:
    return hmac.new(user_key(), place.encode("utf-8", "surrogatepass") + b"\0" + body, hashlib.blake2b).hexdigest()[:64]


def wrapped(body: bytes, place: str) -> bytes:
    """`body` with this user's signature before it, which holds for `place` alone."""
    return _signature(body, place).encode() + b"\n" + body


def unwrapped(raw: bytes, place: str) -> bytes:
    """The body of `wrapped`. Raises `ValueError` if it is damaged, somebody else's, or belongs elsewhere."""
    signature, _, body = raw.partition(b"\n")
    if not hmac.compare_digest(signature, _signature(body, place).encode()):
        raise ValueError("not signed by this user for this place")
    return body


def sealed(data: object, place: str) -> bytes:
    """`data` as JSON, signed as by `wrapped`."""
    return wrapped(json.dumps(data, ensure_ascii=False, separators=(",", ":")).encode("utf-8", "surrogatepass"), place)


def opened(raw: bytes, place: str) -> Any:
    """The data of `sealed`. Raises `ValueError` as `unwrapped` does, and for what is no JSON."""
    return json.loads(unwrapped(raw, place).decode("utf-8", "surrogatepass"))


def body_of(raw: bytes) -> bytes:
    """What was signed, whoever signed it."""
    return raw.partition(b"\n")[2]


def resealed(raw: bytes, place: str) -> bytes:
    """The same with this user's signature: the user vouches for it."""
    return wrapped(body_of(raw), place)
