"""`worn lsp` as an editor meets it: the real program, spoken to in the protocol."""

from __future__ import annotations

import json
import subprocess
import sys
from typing import Any

from tests.support import FolderCase
from wornpage.press import press

PAGE = """\
---
title: Damp
given: {limit: {default: 60, help: Above this a room is damp.}}
bibliography: works.bib
chunks: {humidity: {width: 12cm}}
press:
  html: {contents: side}
---

# The rooms {#rooms}

```python run #humidity show=output
total = 12.34; page.table({"a": [total]})
```
Caption: Humidity by day.

See {see humidity} and {cite okafor2020}; 😀 {= total as 1 decimals} of {= given.limit}.

## Below {#below}

[there](#humidity) {see nothing}

{insert part.md}
"""


class Editor(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write(
            "works.bib",
            "@book{okafor2020,\n  author = {Okafor, Ada}, title = {Damp Rooms}, year = 2020, publisher = {M}}\n",
        )
        self.write("part.md", "More.\n")
        self.page = self.write("page.md", PAGE.replace(" {see nothing}", "").encode())
        press(self.page)
        self.page.write_text(PAGE, encoding="utf-8")
        self.process = subprocess.Popen(
            [sys.executable, "-m", "wornpage", "lsp"], cwd=self.folder, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE
        )  # fmt: skip
        self.addCleanup(self.end)
        self.number = 0
        self.told: list[dict[str, Any]] = []
        self.uri = self.page.resolve().as_uri()
        self.ask("initialize", {"processId": None, "rootUri": self.folder.resolve().as_uri(), "capabilities": {}})
        self.tell("initialized", {})
        self.tell(
            "textDocument/didOpen",
            {"textDocument": {"uri": self.uri, "languageId": "markdown", "version": 1, "text": PAGE}},
        )

    def end(self) -> None:
        """As an editor ends it."""
        self.ask("shutdown", None)
        self.tell("exit", None)
        _, said = self.process.communicate(timeout=20)
        self.assertEqual((self.process.returncode, b"Traceback" in said), (0, False), said)

    def tell(self, method: str, data: Any) -> None:
        """A message that wants no answer."""
        self.send({"method": method, "params": data})

    def ask(self, method: str, data: Any) -> Any:
        """The answer to a question."""
        self.number += 1
        self.send({"id": self.number, "method": method, "params": data})
        while (message := self.receive()).get("id") != self.number:
            self.told.append(message)
        self.assertNotIn("error", message)
        return message.get("result")

    def send(self, message: dict[str, Any]) -> None:
        """As the protocol has it."""
        data = json.dumps({"jsonrpc": "2.0", **message}).encode()
        assert self.process.stdin is not None
        self.process.stdin.write(b"Content-Length: %d\r\n\r\n%s" % (len(data), data))
        self.process.stdin.flush()

    def receive(self) -> dict[str, Any]:
        """The next message."""
        assert self.process.stdout is not None
        length = 0
        while (line := self.process.stdout.readline().strip()) != b"":
            if line.lower().startswith(b"content-length:"):
                length = int(line.partition(b":")[2])
        found: dict[str, Any] = json.loads(self.process.stdout.read(length))
        return found

    def at(self, words: str, further: int = 0) -> dict[str, Any]:
        """A place in the page, in UTF-16 units as editors count."""
        before = PAGE[: PAGE.index(words) + further]
        line = before.rpartition("\n")[2]
        return {
            "textDocument": {"uri": self.uri},
            "position": {"line": before.count("\n"), "character": len(line.encode("utf-16-le")) // 2},
        }

    def findings(self) -> dict[str, int]:
        """Line of each finding by its rule, as last told."""
        while True:
            for message in self.told:
                if message.get("method") == "textDocument/publishDiagnostics":
                    self.told.remove(message)
                    return {one["code"]: one["range"]["start"]["line"] for one in message["params"]["diagnostics"]}
            self.told.append(self.receive())

    def labels(self, words: str, further: int) -> dict[str, dict[str, Any]]:
        """What may stand at a place."""
        return {item["label"]: item for item in self.ask("textDocument/completion", self.at(words, further))["items"]}

    def test_findings_come_as_one_types(self) -> None:
        self.assertEqual(self.findings(), {"labels": 20})
        change = {"range": {"start": {"line": 20, "character": 19}, "end": {"line": 20, "character": 32}}, "text": ""}
        self.tell(
            "textDocument/didChange", {"textDocument": {"uri": self.uri, "version": 2}, "contentChanges": [change]}
        )
        self.assertEqual(self.findings(), {})
        note = {"author": "Ada Lund", "text": "Which one?", "around": "Humidity by day."}
        self.write("page.comments.yaml", json.dumps({"comments": [note]}))
        change = {"range": {"start": {"line": 0, "character": 0}, "end": {"line": 0, "character": 0}}, "text": ""}
        self.tell(
            "textDocument/didChange", {"textDocument": {"uri": self.uri, "version": 3}, "contentChanges": [change]}
        )
        self.assertEqual(self.findings(), {"comment": 14})

    def test_what_may_stand_here(self) -> None:
        labels = self.labels("{see humidity", 5)
        self.assertEqual(labels["humidity"]["detail"], "Humidity by day.")
        self.assertIn("rooms", labels)
        work = self.labels("{cite okafor", 6)["okafor2020"]
        self.assertIn("Damp Rooms", work["filterText"])
        self.assertEqual(self.labels("given.limit", 6)["limit"]["documentation"], "Above this a room is damp.")
        options = self.labels("#humidity show=output\n", 10)
        self.assertIn("pick-out=", options)
        self.assertEqual(set(self.labels("show=output\n", 5)), {"all", "source", "output", "nothing"})
        self.assertIn("colophon:", self.labels("  html: {contents", 2) | self.nested())
        self.assertIn("running-title:", self.labels("title: Damp", 0))

    def test_a_work_of_the_author_s_library_is_written_into_the_bibliography_when_it_is_chosen(self) -> None:
        self.write(
            "all/mine.json",
            json.dumps(
                [
                    {
                        "id": "Lund: 2",
                        "type": "book",
                        "title": "Shelves",
                        "author": [{"family": "Lund"}],
                        "issued": {"date-parts": [[2019]]},
                    }
                ]
            ),
        )
        text = PAGE.replace("title: Damp", "library: all/mine.json\ntitle: Damp", 1)
        self.tell(
            "textDocument/didChange",
            {"textDocument": {"uri": self.uri, "version": 4}, "contentChanges": [{"text": text}]},
        )
        asked = self.at("{cite okafor", 6)
        asked["position"]["line"] += 1
        items = {item["label"]: item for item in self.ask("textDocument/completion", asked)["items"]}
        self.assertIn("in your library", items["lund2019"]["detail"])
        self.ask("workspace/executeCommand", items["lund2019"]["command"])
        self.assertIn("@book{lund2019,", (self.folder / "works.bib").read_text())
        again = {item["label"]: item for item in self.ask("textDocument/completion", asked)["items"]}
        self.assertNotIn("command", again["lund2019"])

    def test_a_chunk_is_run_and_what_it_shows_is_told(self) -> None:
        lenses = self.ask("textDocument/codeLens", {"textDocument": {"uri": self.uri}})
        titles = {(one["command"]["title"], one["command"]["arguments"][2]) for one in lenses}
        self.assertIn(("run this chunk", "humidity"), titles)
        self.page.write_text(PAGE.replace("{see nothing}", "") + "\n```python run #told\nprint('shown', 6 * 7)\n```\n")
        one = {"command": "worn.run", "arguments": [self.uri, "--only", "told"]}
        self.ask("workspace/executeCommand", one)
        while not any(message.get("method") == "window/showMessage" for message in self.told):
            self.told.append(self.receive())
        (told,) = [message["params"] for message in self.told if message.get("method") == "window/showMessage"]
        self.assertIn("shown 42", told["message"])

    def nested(self) -> dict[str, Any]:
        """Keys offered where a further line under `html:` would begin."""
        text = PAGE.replace("  html: {contents: side}\n", "  html:\n    \n")
        self.tell(
            "textDocument/didChange",
            {"textDocument": {"uri": self.uri, "version": 3}, "contentChanges": [{"text": text}]},
        )
        asked = {"textDocument": {"uri": self.uri}, "position": {"line": 7, "character": 4}}
        return {item["label"]: item for item in self.ask("textDocument/completion", asked)["items"]}

    def test_what_stands_here(self) -> None:
        def said(words: str, further: int) -> str:
            found = self.ask("textDocument/hover", self.at(words, further))
            return str(found["contents"]["value"]) if found else ""

        self.assertEqual(said("{= total", 4), "12.3")
        self.assertIn("fresh", said("```python run", 5))
        self.assertIn("Humidity by day.", said("{see humidity", 7))
        self.assertIn("Okafor 2020: Damp Rooms", said("{cite okafor", 8))
        self.assertEqual(said("Below", 1), "")

    def test_where_it_is_defined(self) -> None:
        def found(words: str, further: int) -> tuple[str, int]:
            place = self.ask("textDocument/definition", self.at(words, further))
            return place["uri"].rpartition("/")[2], place["range"]["start"]["line"]

        self.assertEqual(found("{see humidity", 7), ("page.md", 11))
        self.assertEqual(found("{cite okafor", 8), ("works.bib", 0))
        self.assertEqual(found("{insert part", 10), ("part.md", 0))

    def test_a_label_is_renamed_wherever_it_stands(self) -> None:
        asked = {**self.at("{see humidity", 7), "newName": "damp"}
        self.assertIsNotNone(self.ask("textDocument/prepareRename", self.at("{see humidity", 7)))
        edits = self.ask("textDocument/rename", asked)["changes"][self.uri]
        lines = PAGE.split("\n")
        for edit in sorted(edits, key=lambda one: (one["range"]["start"]["line"], -one["range"]["start"]["character"])):
            start, end = edit["range"]["start"], edit["range"]["end"]
            lines[start["line"]] = (
                lines[start["line"]][: start["character"]] + edit["newText"] + lines[start["line"]][end["character"] :]
            )
        text = "\n".join(lines)
        self.assertEqual(text, PAGE.replace("humidity", "damp"))
        self.assertIsNone(self.ask("textDocument/prepareRename", self.at("title: Damp", 8)))

    def test_the_outline(self) -> None:
        tree = self.ask("textDocument/documentSymbol", {"textDocument": {"uri": self.uri}})
        self.assertEqual(
            [(one["name"], [inner["name"] for inner in one["children"]]) for one in tree],
            [("The rooms", ["humidity", "Below"])],
        )
