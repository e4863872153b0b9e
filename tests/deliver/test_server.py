"""Outputs put onto a real server: whole, beside what others have put there, and told where it cannot be."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from unittest.mock import patch

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat, PublicFormat

from tests.served import free_port, serve
from tests.support import FolderCase, worn
from wornpage.deliver.places import LIST
from wornpage.deliver.server import PASSWORD, Server, _way
from wornpage.tree.problem import UsageError

RELAY = """
import os, socket, sys, threading
there = socket.create_connection(("127.0.0.1", int(sys.argv[1])))
open(sys.argv[2], "w").close()
def back():
    while data := there.recv(65536):
        os.write(1, data)
    os._exit(0)
threading.Thread(target=back, daemon=True).start()
while data := os.read(0, 65536):
    there.sendall(data)
"""


def make_key(path: Path) -> None:
    """A pair of keys as the Secure Shell keeps them."""
    key = Ed25519PrivateKey.generate()
    secret = key.private_bytes(Encoding.PEM, PrivateFormat.OpenSSH, NoEncryption())
    path.touch(0o600)
    path.write_bytes(secret)
    public = key.public_key().public_bytes(Encoding.OpenSSH, PublicFormat.OpenSSH)
    path.with_name(f"{path.name}.pub").write_bytes(public + b"\n")


class Servers(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.home, self.there = self.folder / "home", self.folder / "served"
        (self.home / ".ssh").mkdir(parents=True)
        self.there.mkdir()
        for path in (self.folder / "host", self.home / ".ssh" / "id_ed25519"):
            make_key(path)
        keys = str(self.home / ".ssh" / "id_ed25519.pub")
        self.port = serve(self, "sftp", self.there, "--key", str(self.folder / "host"), "--authorized-keys", keys, "--vfs-cache-mode", "writes", "--vfs-write-back", "0s")  # fmt: skip
        self.know()
        changed = patch.dict(os.environ, {"HOME": str(self.home)})
        changed.start()
        self.addCleanup(changed.stop)
        self.address = f"sftp://rei@127.0.0.1:{self.port}/public"

    def know(self) -> None:
        host = (self.folder / "host.pub").read_text()
        (self.home / ".ssh" / "known_hosts").write_text(f"[127.0.0.1]:{self.port} {host}")

    def files(self) -> dict[str, bytes]:
        place = self.there / "public"
        return {str(path.relative_to(place)): path.read_bytes() for path in place.rglob("*") if path.is_file()}

    def test_what_was_delivered_is_there_and_what_others_put_there_stays(self) -> None:
        server, first = Server(self.address), {"a.html": b"1", "deep/er/b.png": os.urandom(300_000), "é ü.html": b""}
        self.assertEqual(server.change(first).came, tuple(sorted(first)))
        server.put(first)
        held = self.files()
        held.pop(LIST)
        self.assertEqual(held, first)
        self.assertTrue(server.change(first).is_empty)
        (self.there / "public" / "own.txt").write_text("mine")
        second = {"a.html": b"2", "é ü.html": b"longer"}
        change = Server(self.address).change(second)
        self.assertEqual((change.came, change.changed, change.went), ((), ("a.html", "é ü.html"), ("deep/er/b.png",)))
        Server(self.address).put(second)
        held = self.files()
        held.pop(LIST)
        self.assertEqual(held, {**second, "own.txt": b"mine"})
        (self.there / "public" / "c.html").mkdir()
        for bad in ({"c.html": b""}, {"../x": b""}, {"/x": b""}):
            with self.assertRaises(UsageError):
                Server(self.address).put({**second, "a.html": b"3", **bad})
        self.assertEqual(self.files()["a.html"], b"2")
        self.assertFalse([name for name in self.files() if name.endswith(".part")])

    def test_a_connection_that_breaks_leaves_all_as_it_was(self) -> None:
        Server(self.address).put({"a.html": b"1", "b.html": b"1", "y.html": b"1", "z.html": b"1"})
        server = Server(self.address)
        writes, removes = server._write, server._remove

        def broken(path: str, data: bytes) -> None:
            if "b.html" in path:
                raise EOFError("gone")
            writes(path, data)

        def stuck(part: str, path: str) -> None:
            if "b.html" in path:
                raise OSError("no")
            renames(part, path)

        def kept(name: str) -> None:
            if name == "z.html":
                raise OSError("no")
            removes(name)

        renames, was = server._rename, self.files()
        for name, act in (("_write", broken), ("_rename", stuck), ("_remove", kept)):
            with patch.object(server, name, act), self.assertRaises(UsageError):
                server.put({"a.html": b"2", "b.html": b"2", "c.html": b"2"})
            self.assertEqual(self.files(), was, name)

    def test_strangers_and_mistakes_are_told(self) -> None:
        for address, words in (
            ("sftp://", "no address"), ("http://x/y", "no address"), ("sftp://h:x/", "no address"), ("sftp://a:geheim@h/", PASSWORD),
        ):  # fmt: skip
            with self.assertRaisesRegex(UsageError, words) as raised:
                Server(address)
            self.assertNotIn("geheim", str(raised.exception))
        with self.assertRaises(UsageError):
            Server(f"sftp://rei@127.0.0.1:{free_port()}/x").change({})
        known = self.home / ".ssh" / "known_hosts"
        known.unlink()
        with self.assertRaisesRegex(UsageError, "SHA256:.*ssh 127.0.0.1 -p"):
            Server(self.address).change({})
        other = self.home / ".ssh" / "id_ed25519.pub"
        known.write_text(f"[127.0.0.1]:{self.port} {other.read_text()}")
        with self.assertRaises(UsageError):
            Server(self.address).change({})
        self.know()
        (self.home / ".ssh" / "id_ed25519").unlink()
        with self.assertRaisesRegex(UsageError, "does not let you in"):
            Server(self.address).change({})

    def test_the_command_delivers_to_a_host_that_the_configuration_names(self) -> None:
        (self.home / ".ssh" / "config").write_text(
            f"Host library\n  HostName 127.0.0.1\n  Port {self.port}\n  User rei\n"
        )
        self.write("p/worn.yaml", "deliver: {web: {pages: [one.md], server: 'sftp://library/public'}}\n")
        self.write("p/one.md", "Of {= 1 + 1}.\n")
        done = worn("deliver", "web", folder=Path(self.folder / "p"))
        self.assertEqual((done.returncode, done.stdout), (0, "+ one.html\n"), done.stderr)
        self.assertEqual(self.files()["one.html"], (self.folder / "p" / "one.html").read_bytes())

    def test_a_host_behind_another_is_reached_as_the_configuration_says(self) -> None:
        relay = self.write("relay.py", RELAY)
        (self.home / ".ssh" / "config").write_text(
            f"Host 127.0.0.1\n  ProxyCommand {sys.executable} '{relay}' {self.port} '{self.folder / 'used'}'\n"
        )
        Server(self.address).put({"a.html": b"1"})
        self.assertEqual((self.files()["a.html"], (self.folder / "used").exists()), (b"1", True))
        self.assertEqual(_way({"proxyjump": "door.example"}, "h", 22), "ssh -W h:22 door.example")
        self.assertEqual(_way({"proxycommand": "none"}, "h", 22), "")
