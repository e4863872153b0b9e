"""What servers share: who is let in, what is told, whom it is told to; which saves count."""

import asyncio
import os
from pathlib import Path
from typing import Any

from tests.support import FolderCase
from wornpage.serving.loopback import Guard, Loopback, is_source, own_name, stamps


class _Server(Loopback):
    def greeting(self) -> tuple[str, dict[str, object]]:
        return "hello", {"all": "of it"}


class Telling(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.server = _Server(0)
        self.addCleanup(self.server.socket.close)

    def test_who_falls_behind_is_told_anew_how_things_stand(self) -> None:
        async def heard() -> list[bytes]:
            self.server._loop = asyncio.get_running_loop()
            stream = self.server._stream()
            found = [await anext(stream)]
            for number in range(500):
                self.server._send(f"event: n\ndata: {number}\n\n".encode())
            listener = next(iter(self.server._listeners))
            self.assertLessEqual(listener.qsize(), 201)
            found.append(await anext(stream))
            self.server._send(None)
            async for text in stream:
                found.append(text)
            return found

        found = asyncio.run(heard())
        self.assertTrue(found[0].startswith(b"retry: 500\nevent: hello"))
        self.assertIn(b"event: hello", b"".join(found[1:]), "the whole, in place of what was missed")
        self.assertTrue(found[-1].endswith(b"data: 499\n\n"))
        self.assertEqual(self.server._listeners, set())

    def test_addresses(self) -> None:
        self.assertEqual(self.server.base, f"http://127.0.0.1:{self.server.port}/")
        self.assertTrue(self.server.address.startswith(self.server.base + self.server.token))
        self.assertGreater(len(self.server.token), 20)
        self.assertEqual(own_name("::1"), "::1")
        with self.assertRaises(OSError):
            _Server(self.server.port)


class Guarding(FolderCase):
    def status(self, is_open: bool, kind: str = "http", **headers: str) -> int:
        told: list[Any] = []

        async def app(scope: Any, receive: Any, send: Any) -> None:
            await send({"type": "http.response.start", "status": 200, "headers": []})

        async def send(message: Any) -> None:
            told.append(message)

        sent = [(name.replace("_", "-").encode(), value.encode()) for name, value in headers.items()]
        asyncio.run(Guard(app, 80, is_open)({"type": kind, "headers": sent}, None, send))
        policies = [value for name, value in told[0]["headers"] if name == b"content-security-policy"]
        self.assertEqual(bool(policies), told[0]["status"] == 200 and kind == "http")
        return int(told[0]["status"])

    def test_only_the_browser_of_this_machine_is_served(self) -> None:
        self.assertEqual(self.status(False, host="127.0.0.1:80"), 200)
        self.assertEqual(
            self.status(False, host="localhost:80", origin="http://localhost:80", sec_fetch_site="same-origin"), 200
        )
        for headers in (
            {}, {"host": "evil.example:80"}, {"host": "127.0.0.1:8000"}, {"host": "127.0.0.1:80", "origin": "http://evil.example"},
            {"host": "127.0.0.1:80", "origin": "null"}, {"host": "127.0.0.1:80", "sec_fetch_site": "cross-site"},
        ):  # fmt: skip
            with self.subTest(headers):
                self.assertEqual(self.status(False, **headers), 403)

    def test_an_open_server_is_open_to_hosts_and_not_to_other_sites(self) -> None:
        self.assertEqual(self.status(True, host="192.0.2.7:80"), 200)
        self.assertEqual(self.status(False, host="192.0.2.7:80"), 403)
        self.assertEqual(self.status(True, host="192.0.2.7:80", origin="http://192.0.2.7:80"), 200)
        self.assertEqual(self.status(True, host="192.0.2.7:80", origin="http://evil.example"), 403)
        self.assertEqual(self.status(True, host="192.0.2.7:80", sec_fetch_site="cross-site"), 403)
        self.assertEqual(self.status(False, kind="lifespan"), 200)


class Watching(FolderCase):
    def test_what_may_be_a_source(self) -> None:
        here = Path("/work/.hidden/page")
        for name, may_be in (
            ("a.md", True), ("data/x.csv", True), ("a.html", False), ("a.slides.html", False), ("a.pptx", False), ("a.pdf", False), ("a.docx", False),
            (".worn/store/x", False), ("pressed/a.md", False), ("node_modules/x.js", False), ("a.md~", False), (".a.md.swp", False), ("a.md.part", False),
        ):  # fmt: skip
            with self.subTest(name):
                self.assertEqual(is_source(str(here / name), here), may_be)

    def test_saves_are_told_apart_and_what_is_gone_is_left_out(self) -> None:
        path = self.write("a.md", "one")
        before = stamps([path, self.folder / "none"])
        self.assertEqual(list(before), [path])
        path.write_text("two", encoding="utf-8")
        os.utime(path, ns=(1, 1))
        self.assertNotEqual(stamps([path]), before)
