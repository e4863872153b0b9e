"""The server of a proof: what it tells, whatever letters are in it, and whom it serves."""

import asyncio
import json
from types import SimpleNamespace

from tests.support import FolderCase
from wornpage.proof.server import ProofServer


class Telling(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.server = ProofServer(self.write("p.md", "Words."), {}, False, 0)
        self.addCleanup(self.server.socket.close)

    def test_events_hold_names_of_files_that_are_no_text(self) -> None:
        why = "f\udcff.txt changed, 道"
        self.server.workshop.presser = SimpleNamespace(version=3, state=lambda: {"problems": [why]})  # type: ignore[assignment]

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

    def test_it_listens_to_this_machine_alone(self) -> None:
        self.assertEqual(self.server.socket.getsockname()[0], "127.0.0.1")
        self.assertGreater(len(self.server.token), 20)
