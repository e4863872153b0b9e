"""The server of a proof: what it tells, whatever letters are in it, and whom it serves."""

import asyncio
import json
from types import SimpleNamespace
from typing import Any

from tests.support import FolderCase
from wornpage.proof.server import Guard, ProofServer


class Telling(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.server = ProofServer(self.write("p.md", "Words."), {}, False, 0)
        self.addCleanup(self.server.socket.close)

    def test_events_hold_names_of_files_that_are_no_text(self) -> None:
        why = "f\udcff.txt changed, 道"
        self.server.desk = SimpleNamespace(version=3, state=lambda: {"problems": [why]})  # type: ignore[assignment]

        async def heard() -> list[bytes]:
            self.server._loop = asyncio.get_running_loop()
            stream = self.server._stream()
            first = await anext(stream)
            self.server.tell("state", {"why": why})
            second = await anext(stream)
            await stream.aclose()  # type: ignore[attr-defined]
            return [first, second]

        hello, state = (event.decode("utf-8") for event in asyncio.run(heard()))
        self.assertEqual(json.loads(hello.partition("data: ")[2])["problems"], [why])
        self.assertEqual(json.loads(state.partition("data: ")[2]), {"why": why})
        self.assertEqual(self.server._listeners, set())

    def answered(self, **headers: str) -> int:
        """The status that a request with these headers gets; what lies behind the guard answers with 200."""
        told: list[Any] = []

        async def app(scope: Any, receive: Any, send: Any) -> None:
            await send({"type": "http.response.start", "status": 200, "headers": []})

        async def send(message: Any) -> None:
            told.append(message)

        sent = [(name.replace("_", "-").encode(), value.encode()) for name, value in headers.items()]
        asyncio.run(Guard(app, 8000)({"type": "http", "headers": sent, "method": "GET", "path": "/"}, None, send))
        return int(told[0]["status"])

    def test_only_the_browser_of_this_machine_is_served(self) -> None:
        self.assertEqual(self.answered(host="127.0.0.1:8000"), 200)
        self.assertEqual(
            self.answered(host="localhost:8000", origin="http://localhost:8000", sec_fetch_site="same-origin"), 200
        )
        for headers in (
            {}, {"host": "evil.example:8000"}, {"host": "127.0.0.1:80"}, {"host": "127.0.0.1:8000", "origin": "http://evil.example"},
            {"host": "127.0.0.1:8000", "origin": "null"}, {"host": "127.0.0.1:8000", "sec_fetch_site": "cross-site"},
        ):  # fmt: skip
            with self.subTest(headers):
                self.assertEqual(self.answered(**headers), 403)

    def test_it_listens_to_this_machine_alone(self) -> None:
        self.assertEqual(self.server.socket.getsockname()[0], "127.0.0.1")
        self.assertGreater(len(self.server.token), 20)
