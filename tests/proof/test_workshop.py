"""The tools of a proof as scripts ask for them: what is understood, what is refused in words, and what is written."""

from __future__ import annotations

import asyncio
import json
import time
from types import SimpleNamespace
from typing import Any
from unittest import mock

from starlette.requests import Request

from tests.support import FolderCase
from wornpage.proof.presser import Presser
from wornpage.proof.server import ProofServer
from wornpage.proof.workshop import SCRIPTS, Workshop, script

PAGE = """
---
title: Loans
given: {branch: {default: North, one-of: [North, South]}, above: {default: 60, from: 40, to: 80}}
---

Words of {= given.branch}. {see loans}

```python run #loans
import matplotlib.pyplot as plt
fig, ax = plt.subplots(figsize=(2, 1))
_ = ax.plot([1, given.above])
```

Caption: Loans of a year.
"""


class Tools(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.write("page.md", PAGE)
        self.shop = Workshop(
            self.page, {}, lambda page, text, line, column: [(text.split("\n")[line][:column], "here")]
        )
        self.routes = {(how, route.path): route for route in self.shop.routes("/") for how in route.methods or ()}

    def shown(self) -> Presser:
        """The page, pressed."""
        self.shop.presser = presser = Presser(self.page, {}, "mark", False, lambda event, data: None)
        self.addCleanup(presser.close)
        self.until(lambda: presser.proof is not None and presser.parts is not None)
        return presser

    def until(self, holds: Any) -> None:
        """Wait for it, not for ever."""
        end = time.monotonic() + 20
        while not holds():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.02)

    def ask(self, path: str, body: bytes | dict[str, Any] | None = None) -> tuple[int, dict[str, Any]]:
        """What a tool is answered: the status, and the data."""
        held = json.dumps(body).encode() if isinstance(body, dict) else body
        path, _, query = path.partition("?")
        how = "GET" if held is None else "POST"

        async def receive() -> dict[str, Any]:
            return {"type": "http.request", "body": held or b"", "more_body": False}

        scope = {"type": "http", "method": how, "path": f"/{path}", "query_string": query.encode(), "headers": []}
        answer = asyncio.run(self.routes[how, f"/{path}"].endpoint(Request(scope, receive)))
        return answer.status_code, json.loads(answer.body)

    def part(self, presser: Presser, words: str) -> int:
        """The number of the part with these words."""
        assert presser.parts is not None
        return next(at for at, part in enumerate(presser.parts.parts) if words in part.html)

    def test_nothing_is_done_before_the_page_has_been_shown(self) -> None:
        self.assertEqual(self.ask("values")[0], 409)
        self.shop.presser = SimpleNamespace(proof=None, parts=None)  # type: ignore[assignment]
        self.assertEqual(self.ask("source", {"first": 1, "before": "", "after": "x"})[0], 409)
        self.assertEqual(self.page.read_text(), PAGE.lstrip())

    def test_what_is_no_question_is_refused_and_changes_nothing(self) -> None:
        self.shown()
        for path in ("given", "default", "source", "find", "tune", "help"):
            for body in (b"", b"{", b"[]", b"[" * 9_000, b'{"first": "x"}', b"\xff", b'{"what": "burn", "part": 0}', b'{"\\ud800": 1}', b"null"):  # fmt: skip
                with self.subTest(path=path, body=body[:20]):
                    status, told = self.ask(path, body)
                    self.assertIn(status, {400, 422})
                    self.assertTrue(told["why"])
        for asked in ("source", "source?part=x", "source?part=-1", "source?part=99999", "source?part=1e3"):
            self.assertIn(self.ask(asked)[0], {400, 422}, asked)
        self.assertEqual(self.page.read_text(), PAGE.lstrip())

    def test_a_fault_of_ours_is_told_in_words_with_where_its_details_are(self) -> None:
        self.shown()
        with mock.patch("wornpage.proof.workshop.everything", side_effect=ZeroDivisionError):
            status, told = self.ask("find?words=x")
        self.assertEqual(status, 500)
        self.assertIn("not of your page", told["why"])
        self.assertNotIn("Traceback", told["why"])

    def test_values_are_checked_tried_and_written(self) -> None:
        presser = self.shown()
        self.assertIn('data-given="branch"', self.ask("values")[1]["fields"])
        self.assertIn("South", self.ask("given", {"branch": "Sout"})[1]["why"])
        self.assertEqual(self.ask("given", {"branch": "South"}), (200, {}))
        self.until(lambda: "South" in "".join(part.html for part in presser.parts.parts))  # type: ignore[union-attr]
        self.assertEqual(self.page.read_text(), PAGE.lstrip())
        self.assertIn("begins with above", self.ask("default", {"above": "70", "branch": "North"})[1]["said"])
        self.assertEqual(self.page.read_text(), PAGE.lstrip().replace("default: 60", "default: 70"))

    def test_a_block_is_opened_helped_with_and_written(self) -> None:
        presser = self.shown()
        _, told = self.ask(f"source?part={self.part(presser, 'Words of')}")
        self.assertEqual(told, {"first": 6, "text": "Words of {= given.branch}. {see loans}"})
        block = {"first": 6, "before": told["text"], "after": "Mine {see l"}
        self.assertEqual(self.ask("help", block | {"line": 0, "column": 9})[1]["found"], [["Mine {see", "here"]])
        self.assertEqual(self.ask("source", block), (200, {}))
        self.assertIn("\nMine {see l\n", self.page.read_text())
        self.assertIn("meanwhile", self.ask("source", block | {"before": "other"})[1]["why"])

    def test_labels_are_found_and_figures_set(self) -> None:
        presser = self.shown()
        self.assertEqual([one["mark"] for one in self.ask("find?words=loans+year")[1]["found"]], ["{see loans}"])
        self.assertEqual(self.ask("find")[1]["found"], [])
        asked = {"what": "try", "part": self.part(presser, "<figure"), "picked": {"title": "T"}, "first": None}
        status, told = self.ask("tune", asked)
        self.assertEqual((status, told["code"], told["first"]), (200, 'ax.set_title("T")', 8))
        self.assertEqual(self.page.read_text(), PAGE.lstrip())
        self.assertEqual(self.ask("tune", asked | {"what": "write", "first": 8})[1]["said"], "written")
        self.assertIn('\nax.set_title("T")\n```', self.page.read_text())
        self.assertIn("no number", self.ask("tune", asked | {"picked": {"x-from": "a"}})[1]["why"])

    def test_where_something_comes_from_can_be_asked_and_leads_to_its_place(self) -> None:
        presser = self.shown()
        part = self.part(presser, "data-from")
        self.assertNotIn("page.md:", presser.parts.parts[part].html)  # type: ignore[union-attr]
        status, told = self.ask(f"origin?part={part}&at=0")
        first = told["steps"][told["first"]]
        self.assertEqual(
            (status, first["place"].partition(":")[0], told["words"]["origin"]), (200, "page.md", "Where from?")
        )
        self.assertEqual(self.ask("edit", {"place": first["place"]}), (200, {"opened": False}))
        self.assertEqual(self.ask("edit", {"place": "/etc/passwd:1:1"})[0], 422)
        self.assertEqual((self.ask(f"origin?part={part}&at=99")[0], self.ask("origin?part=999&at=0")[0]), (422, 422))

    def test_every_script_is_served_under_its_name(self) -> None:
        server = ProofServer(self.page, {}, False, 0)
        self.addCleanup(server.socket.close)
        for name in SCRIPTS:
            answer = asyncio.run(server.script(Request({"type": "http", "method": "GET", "path": f"/x/{name}", "headers": [], "server": ("h", 1), "query_string": b"", "scheme": "http"})))  # fmt: skip
            self.assertEqual(bytes(answer.body).decode(), script(name))
            self.assertIn('"use strict"', script(name))
