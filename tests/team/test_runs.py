"""Runs from the team's store: taken where they hold and are trusted, never where they do not, and no shelf keeps a page from being pressed."""

from __future__ import annotations

import contextlib
import os
import random
import shutil
import socket
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from unittest.mock import patch

from tests.support import FolderCase
from wornpage.plan.record import Outcome
from wornpage.press import Pressing, press
from wornpage.store.place import store_of
from wornpage.team.keys import own_key, trust
from wornpage.team.sending import Sent, send

PAGE = """---
title: Rooms
store: {store}
given: {{rooms: 20}}
---

```python run #load
import time
rows = list(range(50000))
```

```python run #model
time.sleep(0.35)
slope = sum(rows) / given.rooms
table = {{"rooms": given.rooms, "rows": rows}}
print("fitted")
```

```python run #told
time.sleep(0.3)
said = len(table["rows"]) + slope
```

Of {{= said as 1 decimal}} and {{= slope as 1 decimal}}.
"""


class TeamCase(FolderCase):
    """Several people, each with a folder and keys of their own, and one shelf."""

    def setUp(self) -> None:
        super().setUp()
        self.shelf = self.folder / "shelf"
        self.shelf.mkdir()
        os.environ["AWS_ACCESS_KEY_ID"], os.environ["AWS_SECRET_ACCESS_KEY"] = "marlow", "street"
        self.keys: dict[str, str] = {}

    @contextlib.contextmanager
    def being(self, who: str) -> Iterator[Path]:
        """Work as somebody."""
        with patch.dict(os.environ, {"XDG_CONFIG_HOME": str(self.folder / who / "settings")}):
            yield self.folder / who

    def press_as(self, who: str, store: str = "", text: str = PAGE, given: object = 20) -> Pressing:
        with self.being(who), patch("wornpage.press.story.send_aside"):
            page = self.write(f"{who}/page.md", text.format(store=store or self.shelf))
            pressing = press(page, ["html"], given={"rooms": given})
            self.keys[who] = own_key()
        return pressing

    def send_as(self, who: str) -> Sent:
        with self.being(who) as home:
            return send(store_of(home / "page.md"))

    def trust_as(self, who: str, whom: str) -> None:
        with self.being(who):
            trust(self.keys[whom], whom.title())

    def had(self, pressing: Pressing) -> list[str]:
        return [chunk.label for chunk in pressing.chunks if chunk.whose]

    def html(self, who: str) -> bytes:
        return (self.folder / who / "page.html").read_bytes()


def press_alone(case: TeamCase) -> Pressing:
    """Press as Zoe, who has no key."""
    with case.being("zoe"), patch("wornpage.press.story.send_aside"):
        page = case.write("zoe/page.md", PAGE.format(store=case.shelf))
        return press(page, ["html"], given={"rooms": 20})


class Runs(TeamCase):
    def setUp(self) -> None:
        super().setUp()
        self.press_as("imke")
        self.sent = self.send_as("imke")

    def test_what_a_colleague_has_run_is_taken_and_is_the_same(self) -> None:
        self.assertEqual((self.sent.runs, self.sent.left, self.send_as("imke").runs), (2, 0, 0), self.sent)
        stranger = self.press_as("rei")
        self.assertEqual((self.had(stranger), stranger.warnings), ([], ()))
        self.trust_as("aki", "rei")
        self.assertEqual(self.had(self.press_as("aki")), [], "Rei has sent nothing")
        self.trust_as("zoe", "imke")
        pressing = self.press_as("zoe")
        self.assertEqual(self.had(pressing), ["model", "told"])
        self.assertEqual([chunk.outcome for chunk in pressing.chunks], [Outcome.RAN, Outcome.REUSED, Outcome.REUSED])
        self.assertEqual({self.html(who) for who in ("rei", "aki", "zoe")}, {self.html("imke")})
        self.assertEqual(self.had(self.press_as("zoe")), [], "they are in the own store now")
        self.assertEqual(self.send_as("zoe").runs, 0, "what was had is not sent")

    def test_what_does_not_hold_is_run(self) -> None:
        self.trust_as("zoe", "imke")
        self.assertEqual(self.had(self.press_as("zoe", given=21)), [])
        self.assertEqual(self.had(self.press_as("zoe", text=PAGE.replace("50000", "50001"))), [])
        self.assertEqual(self.had(self.press_as("zoe", text=PAGE.replace("+ slope", "- slope"))), ["model"])

    def test_what_is_sooner_run_than_had_is_run_and_is_not_sent(self) -> None:
        self.trust_as("zoe", "imke")
        with patch("wornpage.team.pace._LATENCY", 1.0):
            self.assertEqual(self.had(self.press_as("zoe")), [])
            self.press_as("rei")
            self.assertEqual(self.send_as("rei").runs, 0)

    def test_a_shelf_that_lies_is_found_out(self) -> None:
        self.trust_as("zoe", "imke")
        luck = random.Random(3)
        files = sorted(path for path in self.shelf.rglob("*") if path.is_file())
        whole = {path: path.read_bytes() for path in files}
        for number in range(7):
            for path, data in whole.items():
                path.write_bytes(data)
            if number == 0:  # runs at each other's places
                first, second = (path for path in files if "." in path.name)
                first.write_bytes(whole[second])
                second.write_bytes(whole[first])
            elif number == 1:  # somebody else's signature
                for path in files:
                    if "." in path.name:
                        path.write_bytes(b"\0" * 64 + whole[path][64:])
            else:
                for path in luck.sample(files, 1 + number // 3):
                    broken = bytearray(whole[path])
                    broken[luck.randrange(len(broken))] ^= 1 + luck.randrange(255)
                    path.write_bytes(bytes(broken) if number % 2 else bytes(broken[: len(broken) // 2]))
            shutil.rmtree(self.folder / "zoe" / ".worn", ignore_errors=True)
            pressing = self.press_as("zoe")
            self.assertLess(len(self.had(pressing)), 3)
            self.assertEqual(self.html("zoe"), self.html("imke"), number)
            if number < 2:
                self.assertEqual(self.had(pressing), [])
                self.assertIn("is not used", str(pressing.warnings[0]))

    def test_a_shelf_that_is_away_is_told_once_and_then_let_be(self) -> None:
        self.trust_as("zoe", "imke")
        gone = self.press_as("zoe", store=str(self.folder / "not mounted"))
        self.assertEqual([chunk.outcome for chunk in gone.chunks], [Outcome.RAN] * 3)
        (told,) = gone.warnings
        self.assertEqual((told.span.line, "No such file" in str(told)), (3, True), told)
        silent = socket.create_server(("127.0.0.1", 0))
        self.addCleanup(silent.close)
        where = f"{{at: 's3://laboratory/x', endpoint: 'http://127.0.0.1:{silent.getsockname()[1]}'}}"
        begun = time.monotonic()
        pressing = self.press_as("zoe", store=where, given=22)
        self.assertLess(time.monotonic() - begun, 15)
        self.assertIn("cannot be asked", str(pressing.warnings[0]))
        begun = time.monotonic()
        self.assertIn("was not asked", str(self.press_as("zoe", store=where, given=23).warnings[0]))
        self.assertLess(time.monotonic() - begun, 5)
        self.assertEqual(self.send_as("zoe").left > 0, True, "it is sent another time")

    def test_without_the_package_for_signatures_pages_are_pressed_as_ever(self) -> None:
        self.trust_as("zoe", "imke")
        missing = {name: None for name in sys.modules if name.startswith("cryptography.hazmat.primitives.asymmetric")}
        with patch.dict(sys.modules, missing):
            (told,) = press_alone(self).warnings
        self.assertIn("extra `team`", str(told))

    def test_a_large_thing_that_comes_by_drops_is_given_up(self) -> None:
        self.trust_as("zoe", "imke")

        def slow(self: object, name: str, path: Path, until: float) -> bool:
            threading.Event().wait(60)
            return False

        with patch("wornpage.team.folder.Folder.fetch", slow):
            pressing = self.press_as("zoe")
        self.assertEqual(self.had(pressing), [])
        self.assertIn("took longer than running", str(pressing.warnings[0]))
        self.assertEqual(self.html("zoe"), self.html("imke"))
