"""Who is let in: whoever knows the address, people with passwords, or those whom a proxy names; and how much each may ask."""

from __future__ import annotations

import base64
import hashlib
import hmac
import re
import secrets
import time
from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct

from wornpage.output.atomic import write_file
from wornpage.tree.problem import UsageError

_NAME = re.compile(r"[\w.@+-]{1,80}$")
_COST = (1 << 14, 8, 1)
"""Of scrypt (RFC 7914): about 50 ms and 16 MB a try."""
_LASTS = 14 * 86_400
"""Seconds that somebody stays let in."""
_MOST_KNOWN = 10_000
COOKIE = "worn-desk"


# --- passwords ----------------------------------------------------------------------------------


def let_in(file: Path, name: str, password: str) -> None:
    """Write a person and their password into a file, hashed; whoever has that name has the new password. Raises `UsageError`."""
    if not _NAME.match(name):
        raise UsageError(f"{name!r} is no name here: letters, digits and . @ + - _ make one, at most 80.")
    if len(password) < 8:
        raise UsageError("a password has at least 8 characters.")
    known = read_people(file) if file.exists() else {}
    known[name] = hashed(password)
    lines = ["# who is let in, with passwords hashed by scrypt", *(f"{one}:{told}" for one, told in known.items())]
    try:
        write_file(file, ("\n".join(lines) + "\n").encode())
        file.chmod(0o600)
    except OSError as error:
        raise UsageError(f"{file} cannot be written: {error.strerror}.") from None


def read_people(file: Path) -> dict[str, str]:
    """What a file of people holds: hashes by name. Raises `UsageError` for one that holds anything else."""
    try:
        lines = file.read_text(encoding="utf-8").splitlines()
    except FileNotFoundError:
        raise UsageError(f"there is no {file}. `worn desk --users {file} --let-in NAME` makes it.") from None
    except (OSError, UnicodeDecodeError) as error:
        raise UsageError(f"{file} cannot be read: {getattr(error, 'strerror', None) or error}.") from None
    found = {}
    for number, line in enumerate(lines, 1):
        if not line.strip() or line.startswith("#"):
            continue
        name, _, told = line.strip().partition(":")
        if not _NAME.match(name) or len(told.split("$")) != 6:
            hint = f"Write it with `worn desk --users {file} --let-in NAME`."
            raise UsageError(f"{file}:{number}: this is no person with a hashed password. {hint}")
        found[name] = told
    return found


def hashed(password: str) -> str:
    """A password as it is kept."""
    salt = secrets.token_bytes(16)
    cost = "$".join(map(str, _COST))
    return f"scrypt${cost}${_text(salt)}${_text(_scrypt(password, salt, _COST))}"


def is_password(password: str, told: str) -> bool:
    """Whether a password is the one that is kept so; as slow for a wrong one."""
    _, n, r, p, salt, held = told.split("$")
    made = _scrypt(password, base64.b64decode(salt), (int(n), int(r), int(p)))
    return hmac.compare_digest(made, base64.b64decode(held))


def _scrypt(password: str, salt: bytes, cost: tuple[int, int, int]) -> bytes:
    n, r, p = cost
    return hashlib.scrypt(password.encode()[:4096], salt=salt, n=n, r=r, p=p, maxmem=1 << 28, dklen=32)


def _text(data: bytes) -> str:
    return base64.b64encode(data).decode()


_NOBODY = hashed(secrets.token_urlsafe(12))
"""What passwords of unknown people are held against, so that it takes as long."""


class Users:
    """A file of people, read anew when it changes."""

    def __init__(self, file: Path) -> None:
        """Raises `UsageError`."""
        self._file = file
        self._stamp, self._known = self._stamped(), read_people(file)
        if not self._known:
            raise UsageError(f"{file} lets nobody in. Add somebody with `worn desk --users {file} --let-in NAME`.")

    def _stamped(self) -> tuple[int, int] | None:
        try:
            stat = self._file.stat()
        except OSError:
            return None
        return stat.st_mtime_ns, stat.st_ino

    @property
    def known(self) -> dict[str, str]:
        """Who is let in now; nobody while the file cannot be read."""
        stamp = self._stamped()
        if stamp != self._stamp:
            self._stamp = stamp
            try:
                self._known = read_people(self._file)
            except UsageError:
                self._known = {}
        return self._known

    def knows(self, name: str, password: str) -> bool:
        """Whether this is somebody's name and password."""
        told = self.known.get(name)
        right = is_password(password, told or _NOBODY)
        return right and told is not None


# --- who comes again ----------------------------------------------------------------------------


class Passes:
    """What browsers keep to be known again: a name and an end, signed."""

    def __init__(self, key: bytes) -> None:
        self._key = key

    def made(self, name: str, told: str = "") -> str:
        """A pass for somebody; `told` is what their password is kept as, with which it ends."""
        body = f"{name}|{int(time.time()) + _LASTS}"
        return f"{_text(body.encode())}.{self._signed(body, told)}"

    def _signed(self, body: str, told: str) -> str:
        return hmac.new(self._key, f"{body}|{told}".encode(), "sha256").hexdigest()

    def name(self, shown: str, known: Mapping[str, str] | None = None) -> str | None:
        """Whose pass it is; None for one that is not ours, or has ended. `known` are the people with passwords."""
        text, _, sign = shown.partition(".")
        try:
            body = base64.b64decode(text, validate=True).decode()
            name, end = body.rsplit("|", 1)
            is_over = int(end) < time.time()
        except (ValueError, UnicodeDecodeError):
            return None
        told = "" if known is None else known.get(name)
        if told is None or is_over or not hmac.compare_digest(sign, self._signed(body, told)):
            return None
        return name


class Allowance(Struct):
    """How much somebody may ask: so many at once, and so many a minute in the long run."""

    at_once: float
    a_minute: float


class Rates:
    """What each has asked lately."""

    def __init__(self, allowance: Allowance) -> None:
        self._allowance = allowance
        self._left: dict[str, tuple[float, float]] = {}

    def take(self, who: str) -> float:
        """Seconds that somebody has to wait first; 0 if they may ask, which counts."""
        now, most = time.monotonic(), self._allowance.at_once
        left, since = self._left.pop(who, (most, now))
        left = min(most, left + (now - since) * self._allowance.a_minute / 60)
        if left < 1:
            self._left[who] = (left, now)
            return (1 - left) * 60 / self._allowance.a_minute
        self._left[who] = (left - 1, now)
        while len(self._left) > _MOST_KNOWN:
            del self._left[next(iter(self._left))]
        return 0.0


class Door(Struct, frozen=True):
    """How people are let in."""

    users: Users | None = None
    """Those with passwords."""
    header: str = ""
    """In which a proxy says who it is."""
    proxies: tuple[str, ...] = ("127.0.0.1", "::1")
    """Addresses of machines whose word on that counts."""

    @property
    def is_by_address(self) -> bool:
        """Whether knowing the address is enough."""
        return self.users is None and not self.header
