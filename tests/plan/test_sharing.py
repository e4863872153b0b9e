"""What pressings side by side share: a chunk that all need runs once, and sessions begin where another stands."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from tests.support import FolderCase
from wornpage.plan.nursery import Nursery
from wornpage.press import Order, press_order

PAGE = """
    ---
    given: {n: 1}
    ---

    ```python run #common
    import os, random, warnings
    import numpy as np
    warnings.simplefilter("ignore", UserWarning)
    grid = np.arange(12.0).reshape(3, 4)[:, ::2]
    words = {"acid", "folds", "damp"}
    linked = [words]

    class Book:
        made = 0

        def __init__(self, title):
            self.title = title

    def titled(n):
        return [Book(f"{word} {n}") for word in sorted(words)]

    live = (i * i for i in range(10))
    os.environ["LIBRARY"] = "Marlow Street"
    ```

    ```python run #own show=output
    words.add(f"n{given.n}")
    grid += given.n
    print(sorted(linked[0]), grid.sum(), [book.title for book in titled(given.n)])
    print(next(live), random.random(), np.random.default_rng(given.n).integers(99), os.environ["LIBRARY"])
    ```

    There are {= len(words)} words, and {= grid.sum()} in all; {= os.environ['LIBRARY']}.
"""


class Forked(FolderCase):
    def pressed(self, n: int, nursery: Nursery | None, store: str) -> bytes:
        """The page for one given value."""
        page = self.folder / "page.md"
        order = Order(page, "page.md", ("html",), self.folder / store, store=self.folder / f"{store}.store", given={"n": n}, edition=f"n{n}", nursery=nursery)  # fmt: skip
        return press_order(order).outputs[0].path.read_bytes()

    def both(self, text: str) -> Nursery:
        """Press three editions both ways; they must be the same."""
        self.write("page.md", text)
        nursery = Nursery()
        self.addCleanup(nursery.close)
        for n in (1, 2, 3):
            self.assertEqual(self.pressed(n, nursery, "shared"), self.pressed(n, None, f"alone{n}"))
        return nursery

    def test_what_comes_of_a_forked_session_is_what_comes_of_a_new_one(self) -> None:
        nursery = self.both(PAGE)
        if sys.platform == "linux":
            self.assertIn("python", nursery.commons)

    def test_a_forked_session_leaves_the_pipes_of_its_mother_to_her(self) -> None:
        count = 'sum(1 for n in os.listdir("/proc/self/fd") if os.path.exists(f"/proc/self/fd/{n}") and "pipe" in os.readlink(f"/proc/self/fd/{n}"))'
        self.both(PAGE.replace("print(next", f"print({count})\n    print(next"))

    def test_where_threads_run_sessions_begin_anew(self) -> None:
        threads = "import threading, time\nthreading.Thread(target=time.sleep, args=(60,), daemon=True).start()\n"
        nursery = self.both(PAGE.replace("import os,", threads.replace("\n", "\n    ") + "import os,"))
        self.assertIn("python", nursery.cannot_fork)

    def test_an_end_in_a_forked_session_is_told_as_in_any(self) -> None:
        self.write("page.md", PAGE.replace("print(next", "if given.n == 3: os._exit(4)\n    print(next"))
        nursery = Nursery()
        self.addCleanup(nursery.close)
        for n in (1, 2):
            self.pressed(n, nursery, "shared")
        with self.assertRaises(Exception) as caught:
            self.pressed(3, nursery, "shared")
        self.assertIn("page.md:", str(caught.exception))
        self.assertIn("4", str(caught.exception))
        self.pressed(2, nursery, "shared")


class OneAtATime(FolderCase):
    def test_a_chunk_that_two_pressings_need_runs_once(self) -> None:
        outside = tempfile.TemporaryDirectory(prefix="worn-log-")
        self.addCleanup(outside.cleanup)
        self.write(
            "page.md",
            f"""
            ---
            given: {{n: 1}}
            ---

            ```python run
            import time, subprocess
            subprocess.run(["mktemp", "-p", {outside.name!r}])
            time.sleep(1)
            found = 42
            ```

            ```python run show=output
            print(found + given.n)
            ```
            """,
        )
        pressings: list[subprocess.Popen[Any]] = [
            subprocess.Popen([sys.executable, "-m", "wornpage", "press", "page.md", "--given", f"n={n}", "--out", f"out{n}"], cwd=self.folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            for n in range(3)
        ]  # fmt: skip
        self.assertEqual([pressing.wait(60) for pressing in pressings], [0, 0, 0])
        self.assertEqual(len(list(Path(outside.name).iterdir())), 1)
        self.assertIn("44", (self.folder / "out2" / "page.html").read_text("utf-8"))
