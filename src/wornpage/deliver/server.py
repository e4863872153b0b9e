"""A folder of a server that speaks SFTP: written under other names first, then put in place."""

from __future__ import annotations

import os
import posixpath
import re
import shlex
import stat
from collections.abc import Callable
from contextlib import suppress
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar
from urllib.parse import unquote, urlsplit

from wornpage.deliver.places import LIST, Change, changes, listed, listing
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from paramiko import MissingHostKeyPolicy, PKey, SFTPAttributes, SFTPClient, SSHClient

T = TypeVar("T")
_PATIENCE = 15.0
"""Seconds that a server may take to answer."""
PASSWORD = "WORN_SFTP_PASSWORD"
"""The variable that holds the password, where one is wanted."""


class _NoWayIn(Exception):
    """There is nothing to show to the server."""


class Server:
    """The folder at an address such as `sftp://imke@files.example:22/srv/public`; one of `~/public` lies in the user's own.

    Who the user is, is found where programs of the Secure Shell look for it: `~/.ssh/config`, keys, the agent. The server
    must be known already. Raises `UsageError`.
    """

    def __init__(self, address: str) -> None:
        self._address = address
        try:
            parts = urlsplit(address)
            self._port = parts.port or 0
        except ValueError:
            parts, self._port = urlsplit(""), 0
        if parts.scheme != "sftp" or not parts.hostname or parts.query or parts.fragment:
            raise UsageError(f"{address!r} is no address of a server; write `sftp://user@host/folder`.")
        if parts.password is not None:
            shown = address.replace(f":{parts.password}@", "@")
            raise UsageError(f"{shown}: a password has no place in a file. Put it into the variable {PASSWORD}.")
        self._host, self._user = parts.hostname, unquote(parts.username or "")
        self._folder = unquote(parts.path).removeprefix("/~/")

    def change(self, files: dict[str, bytes]) -> Change:
        """As `Place` has it."""
        return self._told(lambda: self._change(files))

    def put(self, files: dict[str, bytes]) -> None:
        """As `Place` has it: once all is there under other names, it is renamed, the list last; where that fails, back."""
        change = self.change(files)
        names = [name for name in files if name in {*change.came, *change.changed}]
        whole = {**{name: files[name] for name in names}, LIST: listing(files)}
        folder = next((name for name in whole if self._told(partial(self._is_folder, name))), "")
        if folder:
            raise UsageError(f"{self._address}: {folder!r} is a folder there, and a file is to be put in its place.")
        parts = {name: self._part(name) for name in whole}
        before = {name: self._told(partial(self._read, name)) for name in (*whole, *change.went)}
        done: list[str] = []
        try:
            for name, data in whole.items():
                self._told(partial(self._write, parts[name], data))
            for name in whole:
                done.append(name)
                self._told(partial(self._rename, parts[name], self._path(name)))
            for name in change.went:
                done.append(name)
                self._told(partial(self._remove, name))
        except UsageError:
            self._put_back({name: before[name] for name in done})
            raise
        finally:
            self._sweep(list(parts.values()))

    # --- files --------------------------------------------------------------------------------

    def _change(self, files: dict[str, bytes]) -> Change:
        before = listed(self._read(LIST))
        there: dict[str, bytes] = {}
        for name in {*files, *before}:
            told = self._stat(self._path(name))
            if told is None or stat.S_ISDIR(told.st_mode or 0):
                continue
            wanted = files.get(name, b"")
            is_likely_same = name in files and told.st_size == len(wanted)
            # One of another size need not be read in order to know that it differs.
            there[name] = self._read(name) or b"" if is_likely_same else wanted + b"another"
        return changes(files, there, before)

    def _read(self, name: str) -> bytes | None:
        try:
            with self._client.open(self._path(name), "rb") as file:
                file.prefetch()
                return file.read()
        except FileNotFoundError:
            return None

    def _stat(self, path: str) -> SFTPAttributes | None:
        """What the server tells of a path; None if nothing is there."""
        try:
            return self._client.stat(path)
        except FileNotFoundError:
            return None

    def _is_folder(self, name: str) -> bool:
        told = self._stat(self._path(name))
        return told is not None and stat.S_ISDIR(told.st_mode or 0)

    def _write(self, path: str, data: bytes) -> None:
        self._make(posixpath.dirname(path))
        with self._client.open(path, "wb") as file:
            file.set_pipelined(True)
            file.write(data)

    def _make(self, folder: str) -> None:
        """Make a folder, and those above it."""
        if not folder or folder == "/":
            return
        if self._stat(folder) is None:
            self._make(posixpath.dirname(folder))
            self._client.mkdir(folder)

    def _rename(self, part: str, path: str) -> None:
        try:
            self._client.posix_rename(part, path)
        except OSError:  # servers without that extension do not rename onto a file
            if self._stat(path) is not None:
                self._client.remove(path)
            self._client.rename(part, path)

    def _put_back(self, before: dict[str, bytes | None]) -> None:
        """Files as they were, as far as the server still answers."""
        for name, data in before.items():
            with suppress(Exception):  # what is wrong has been told
                if data is None:
                    self._remove(name)
                else:
                    self._write(self._part(name), data)
                    self._rename(self._part(name), self._path(name))

    def _remove(self, name: str) -> None:
        self._client.remove(self._path(name))

    def _sweep(self, parts: list[str]) -> None:
        """Take away what was not put in place, as far as the server still answers."""
        for path in parts:
            try:
                self._client.remove(path)
            except FileNotFoundError:
                continue
            except Exception:  # the connection is gone, and has been told of
                return

    def _path(self, name: str) -> str:
        if name.startswith("/") or ".." in name.split("/"):
            raise UsageError(f"{name!r} would lie outside of {self._address}.")
        return posixpath.join(self._folder or ".", name)

    def _part(self, name: str) -> str:
        path = self._path(name)
        return posixpath.join(posixpath.dirname(path), f".{posixpath.basename(path)}.{os.getpid()}.part")

    # --- the connection -----------------------------------------------------------------------

    @cached_property
    def _client(self) -> SFTPClient:
        import paramiko

        told = self._said_in_config()
        host, port = str(told.get("hostname", self._host)), self._port or int(told.get("port", 22))
        client = paramiko.SSHClient()
        client.load_system_host_keys()
        for path in (Path(one).expanduser() for one in str(told.get("userknownhostsfile", "")).split()):
            if path.is_file():
                client.load_system_host_keys(str(path))
        client.set_missing_host_key_policy(_refusing())
        way = _way(told, host, port)
        try:
            client.connect(
                host, port, self._user or told.get("user"), password=os.environ.get(PASSWORD), timeout=_PATIENCE,
                key_filename=told.get("identityfile"), sock=paramiko.ProxyCommand(way) if way else None,
                banner_timeout=_PATIENCE, auth_timeout=_PATIENCE,
            )  # fmt: skip
        except paramiko.SSHException as error:
            raise _NoWayIn if "No authentication methods" in str(error) else error from None
        self._kept = client  # which closes the connection when it is gone
        sftp = client.open_sftp()
        channel = sftp.get_channel()
        if channel is not None:
            channel.settimeout(_PATIENCE)
        return sftp

    def _said_in_config(self) -> dict[str, Any]:
        """What the user's configuration says of the host."""
        import paramiko

        path = Path("~/.ssh/config").expanduser()
        if not path.is_file():
            return {}
        return dict(paramiko.SSHConfig.from_path(str(path)).lookup(self._host))

    def _told(self, act: Callable[[], T]) -> T:
        """What an act gives. Raises `UsageError` for whatever server, network or library find wrong."""
        try:
            import paramiko
        except ImportError:
            raise UsageError(
                "delivering to a server needs the package paramiko; install Worn Page with its extra `sftp`."
            ) from None
        try:
            return act()
        except UsageError:
            raise
        except (paramiko.AuthenticationException, paramiko.PasswordRequiredException, _NoWayIn):
            hint = f"A key in ~/.ssh or in the agent, or a password in {PASSWORD}, lets you in."
            raise UsageError(f"{self._address}: the server does not let you in. {hint}") from None
        except TimeoutError:
            raise UsageError(f"{self._address}: the server does not answer.") from None
        except Exception as error:
            said = getattr(error, "strerror", None) or str(error) or type(error).__name__
            raise UsageError(f"{self._address}: {re.sub(r'^.*?] ', '', str(said)).rstrip('.')}.") from None


def _way(told: dict[str, Any], host: str, port: int) -> str:
    """The command through which a host is reached that cannot be reached at once; nothing for one that can."""
    command, jump = str(told.get("proxycommand", "")), str(told.get("proxyjump", ""))
    if command and command.lower() != "none":
        return command
    return shlex.join(["ssh", "-W", f"{host}:{port}", jump]) if jump and jump.lower() != "none" else ""


def _refusing() -> MissingHostKeyPolicy:
    """Takes no server that the user has never been at: somebody else could stand there."""
    from paramiko import MissingHostKeyPolicy

    class Refusing(MissingHostKeyPolicy):
        def missing_host_key(self, client: SSHClient, hostname: str, key: PKey) -> None:
            host = hostname.strip("[]").replace("]:", " -p ")
            raise UsageError(
                f"{hostname} is no server that you know; its key has the fingerprint {key.fingerprint}. "
                f"Once you have compared it, `ssh {host}` makes it known."
            )

    return Refusing()
