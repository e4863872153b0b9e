"""What the desk keeps: as much as there is room for, apart from editions, and none of it by names from outside."""

from __future__ import annotations

import os
import time
from pathlib import Path
from unittest import mock

from tests.support import FolderCase, worn
from wornpage.desk.results import Results
from wornpage.desk.wishes import Wish
from wornpage.desk.work import Bench, Nothing, Report, Task, remembered_as
from wornpage.plan import manifest
from wornpage.plan.nursery import Nursery
from wornpage.plan.stopping import Stopper
from wornpage.press.worker import Hands

PAGE = """
---
given:
  branch: {default: North, one-of: [North, South]}
editions: {combine: {branch: [North, South]}}
---

```python run #own show=nothing
name = given.branch
```

Of {= name}.
"""


class Keeping(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.write("page.md", PAGE).resolve()
        time.sleep(0.05)  # what was written this moment is looked at again
        self.results = Results(self.page)
        self.bench = Bench()
        self.addCleanup(lambda: [one.close() for one in self.bench._nurseries.values()])

    def pressed(self, branch: str) -> tuple[Report, Path]:
        """A report for a branch, as the desk asks for it."""
        wish = Wish("page", {"branch": branch})
        folder = self.results.folder(self.page, wish)
        task = Task(wish.place, str(self.page), "page.md", wish.given, wish.kinds, str(folder), "2026-03-01")
        nursery = Nursery()
        self.addCleanup(nursery.close)
        report = self.bench.press(Nothing(), task, Hands(nursery, Stopper(), lambda said: None))
        self.assertFalse(report.failed, report.problems)
        self.results.keep(self.page, wish.place)
        return report, folder

    def test_editions_that_are_pressed_do_not_take_it_for_one_that_is_gone(self) -> None:
        _, folder = self.pressed("South")
        self.assertEqual(manifest.known_editions(self.page), [])
        done = worn("press", "page.md", "--all-editions", folder=self.folder)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIsNotNone(manifest.last(self.page, remembered_as(folder.name)))
        again, _ = self.pressed("South")
        self.assertEqual((again.ran, again.seconds), (0, 0.0))  # nothing was even planned

    def test_those_go_that_were_asked_for_longest_ago_with_all_that_was_kept_of_them(self) -> None:
        with mock.patch("wornpage.desk.results._MOST", 2):
            (_, north), (_, south) = self.pressed("North"), self.pressed("South")
            for age, folder in ((500, north), (900, south)):
                os.utime(folder / "of", (folder.stat().st_mtime - age,) * 2)
            self.pressed("South")  # again: it is the newest now
            (self.folder / "page.md").write_text(PAGE.replace("[North, South]", "[North, South, East]", 1))
            _, east = self.pressed("East")
        self.assertFalse(north.exists())
        self.assertTrue(south.is_dir() and east.is_dir())
        kept = [manifest.last(self.page, remembered_as(one.name)) is not None for one in (north, south, east)]
        self.assertEqual(kept, [False, True, True])

    def test_the_secret_and_the_line_are_there_after_a_restart_and_spoilt_files_do_no_harm(self) -> None:
        self.pressed("North")
        key, waiting = self.results.key(), [(Wish("page", {"branch": "South"}, ("html", "pdf")), "ann")]
        self.results.save_line(waiting)
        again = Results(self.page)
        self.assertEqual((again.key(), again.saved_line()), (key, waiting))
        home = again.folder(self.page, waiting[0][0]).parent
        for spoilt in ("", "[{}]", '{"a": 1}', "[[1]]", "\x00", '[{"page": 1, "given": 2, "kinds": 3, "person": 4}]'):
            (home / "line.json").write_text(spoilt)
            self.assertEqual(again.saved_line(), [], spoilt)
        (home / "secret").write_text("short")
        self.assertNotEqual(again.key(), key)
        again.new_key()
        self.assertFalse((home / "secret").exists())
