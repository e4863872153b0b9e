"""Chunks that run ahead of their turn: what comes of them is what would come of them in their place, or is not taken."""

from __future__ import annotations

import os
import shutil
import threading
import time
import unittest
from pathlib import Path
from unittest.mock import patch

from tests.beside import side_by_side
from tests.support import FolderCase, worn
from wornpage.plan.standing import Sessions
from wornpage.plan.stopping import Stopped, Stopper
from wornpage.press import Order, press, press_order
from wornpage.tree.problem import PageError

HEAD = """\
```python run #tools
import numpy as np
held = list(range(1000))

def slowly(n):
    return sum(i % 7 for i in range(60_000)) + n
```
"""


def chunk(label: str, *lines: str, options: str = "") -> str:
    """A chunk, as the pages here are written."""
    body = "\n".join(lines)
    return f"\n```python run #{label} {options}\n{body}\n```\n"


def several(count: int, line: str = "print(slowly({n}))") -> str:
    """Chunks of which none needs another."""
    return "".join(chunk(f"c{n}", line.format(n=n)) for n in range(count))


@unittest.skipUnless(hasattr(os, "fork"), "sessions are forked for it")
class AheadOfTurn(FolderCase):
    def both(self, text: str, at_once: int = 3) -> list[str]:
        """Press a page one chunk after the other, and side by side elsewhere; the chunks that were taken. Both must be the same."""
        made = {}
        for count in (1, at_once):
            page = self.write(f"{count}/page.md", text)
            for name in self.beside:
                (page.parent / name).write_text(self.beside[name])
            with side_by_side(count) as taken:
                try:
                    made[count] = press(page).outputs[0].path.read_bytes()
                except PageError as error:
                    made[count] = str(error).replace(str(page.parent), "").encode()
            self.left = {path.name: path.read_text() for path in sorted(page.parent.glob("*.txt"))}
            made[count] += repr(self.left).encode()
        self.assertEqual(made[1].decode(), made[at_once].decode())
        return taken

    def setUp(self) -> None:
        super().setUp()
        self.beside: dict[str, str] = {}

    def test_chunks_that_need_one_another_not_are_taken_and_say_the_same(self) -> None:
        text = HEAD + several(8, "print(slowly({n})); x{n} = np.arange({n} + 3.0)") + "\n{= x3.sum()} {= x7.sum()}\n"
        self.assertGreater(len(self.both(text)), 3)

    def test_live_things_under_the_same_names_make_nothing_run_twice(self) -> None:
        kind = "class Live:\n    def __init__(self, n): self.n, self.lock = n, threading.Lock()\n    def __reduce__(self): raise TypeError"
        own = chunk("own", "it = Live(9)", "open('own.txt', 'w').write(str(it.n))")
        plots = several(5, "it = Live({n})\nprint(slowly({n}), it.n)")
        text = HEAD + chunk("kind", "import threading", kind) + plots + own
        with patch.object(Sessions, "_replay", side_effect=AssertionError("a chunk ran again")):
            self.assertGreater(len(self.both(text)), 1)
        # Where one below reads what such a chunk has made, it runs where that can be had.
        self.assertNotIn(
            "c1",
            self.both(
                HEAD
                + chunk("kind", "import threading", kind)
                + several(2, "it{n} = Live({n})\nprint(slowly(5))")
                + chunk("last", "print(it1.n, it1.lock.locked())")
            ),
        )

    def test_whether_a_folder_is_there_is_seen_in_its_turn(self) -> None:
        made = chunk(
            "made",
            "import os, tempfile",
            "place = tempfile.mkdtemp()",
            "file = os.path.join(place, 'x')",
            "open(file, 'w').write('1')",
        )
        shown = chunk("shown", "print(open(file).read())")
        gone = chunk("gone", "import shutil; shutil.rmtree(place)")
        self.both(HEAD + made + shown + gone + chunk("there", "print(os.path.exists(place))"))

    def test_data_corrected_and_a_long_chunk_with_short_ones_below(self) -> None:
        first = HEAD + chunk("data", "rows = [int(n) for n in open('rows.csv')]")
        text = (
            first
            + chunk("model", "fitted = sum(slowly(n) for n in range(120))", "fitted")
            + several(6, "print(slowly({n}), rows[{n}])")
        )
        page = self.write("page.md", text)
        (self.folder / "rows.csv").write_text("1\n2\n3\n4\n5\n6\n")
        with side_by_side(1):
            press(page)
        (self.folder / "rows.csv").write_text("1\n2\n3\n4\n5\n9\n")
        with side_by_side(2) as taken:
            made = press(page)
        self.assertGreater(len(taken), 1)
        self.assertEqual([one.outcome for one in made.chunks if one.label.startswith("c")], ["ran"] * 6)
        self.assertEqual({one.outcome for one in press(page).chunks}, {"reused"})
        self.beside = {"rows.csv": "1\n2\n3\n4\n5\n9\n"}
        self.both(text)
        self.assertIn(b"179999 9", made.outputs[0].path.read_bytes())

    @unittest.skipUnless(shutil.which("Rscript"), "R is not there")
    def test_chunks_of_r_that_have_run_before_and_python_beside_them(self) -> None:
        slow = "slow <- function(n) { total <- 0; for (i in 1:1500000) total <- total + i %% 7; total + rows[[n]] * 2 }"
        text = (
            chunk("tools", "rows <- as.numeric(readLines('rows.csv'))", slow).replace("python", "r")
            + "".join(chunk(f"c{n}", f"made{n} <- slow({n})", f"made{n}").replace("python", "r") for n in range(1, 5))
            + chunk("writes", "writeLines(format(made2), 'made.txt')", "readLines('made.txt')").replace("python", "r")
            + chunk("last", "print(sum(range(2_000_000)))")
            + "\n{r= made3} {r= made4}\n"
        )  # fmt: skip
        made = {}
        for count in (1, 3):
            page = self.write(f"{count}/page.md", text)
            for rows in ("1 2 3 4", "1 2 3 9"):
                (page.parent / "rows.csv").write_text("\n".join(rows.split()) + "\n")
                with side_by_side(count) as taken:
                    made[count, rows] = press(page).outputs[0].path.read_bytes()
        self.assertEqual(made[1, "1 2 3 4"], made[3, "1 2 3 4"])
        self.assertEqual(made[1, "1 2 3 9"].decode(), made[3, "1 2 3 9"].decode())
        self.assertGreater(len([label for label in taken if label.startswith("c")]), 0)
        self.assertNotIn("writes", taken)

    def test_what_is_changed_in_place_above_counts(self) -> None:
        text = (
            HEAD
            + chunk("changes", "slowly(1)", "held.append(slowly(2)); slowly(3)")
            + several(4, "print(len(held), held[-1])")
        )
        self.both(text)

    def test_files_are_written_in_the_order_of_the_page(self) -> None:
        self.beside = {"log.txt": ""}
        lines = "with open('log.txt', 'a') as log: print({n}, slowly({n}), file=log)"
        taken = self.both(HEAD + several(4, lines) + chunk("reads", "print(open('log.txt').read())"))
        self.assertEqual(taken, [])
        self.assertEqual(len(self.left["log.txt"].splitlines()), 4)

    def test_what_looks_as_if_it_only_read_waits_before_it_writes(self) -> None:
        """No word in the chunks says so: it is seen when it happens."""
        self.beside = {
            "tool.py": "def keep(n):\n    with open(f'kept{n}.txt', 'x') as file:\n        file.write(str(n))\n    return n\n"
        }
        text = (
            HEAD
            + chunk("module", "from tool import keep")
            + several(4, "slowly(1); print(keep({n}), __import__('os').listdir('.'))")
        )
        self.both(text)
        self.assertEqual(len(self.left), 4)

    def test_an_open_file_has_one_position_for_all(self) -> None:
        self.beside = {"lines.csv": "one\ntwo\nthree\nfour\nfive\n"}
        text = (
            HEAD
            + chunk("opens", "file = open('lines.csv')")
            + several(4, "slowly({n}); print(file.readline())")
            + several(2, "").replace("#c", "#d")
        )
        self.assertFalse({label for label in self.both(text) if label.startswith("c")})

    def test_what_would_end_something_does_so_in_its_place(self) -> None:
        ends = ("class Closing:", "    def __del__(self): print('closed')", "thing = Closing()")
        text = (
            HEAD
            + chunk("begins", *ends)
            + several(2, "print(slowly({n}))")
            + chunk("anew", "thing = slowly(4)", "print('anew')")
            + several(2, "print(slowly({n}))").replace("#c", "#d")
        )
        self.both(text)

    def test_a_mistake_is_told_as_ever(self) -> None:
        text = HEAD + several(3) + chunk("wrong", "print(1 / (slowly(1) * 0))") + several(3).replace("#c", "#d")
        self.both(text)
        self.both(HEAD + several(3, "print(1 / (slowly({n}) * 0))").replace(" \n", " on-error=show\n"))

    def test_chance_notices_settings_and_order(self) -> None:
        lines = "import random, warnings; warnings.warn('once'); print(slowly({n}), random.random(), np.random.rand(), sorted(n for n in globals() if n in 'xyz'))"
        text = (
            HEAD
            + chunk("sets", "slowly(9); np.set_printoptions(precision=2)")
            + several(4, lines + "; x = 1")
            + several(2, "print(np.array([1 / 3])); y = z = 2").replace("#c", "#d")
        )
        self.both(text)

    def test_one_after_the_other_where_that_is_wished(self) -> None:
        page = self.write("page.md", "---\nchunks-at-once: 1\n---\n" + HEAD + several(4))
        with side_by_side(4) as taken:
            press(page)
        self.assertEqual(taken, [])

    def test_what_nobody_took_is_there_the_next_time(self) -> None:
        text = (
            HEAD
            + chunk("long", "n = sum(slowly(n) for n in range(80))", "print(n / 0)")
            + several(3, "print(slowly({n}))")
        )
        page = self.write("page.md", text)
        with side_by_side(2), self.assertRaises(PageError):
            press(page)
        self.write("page.md", text.replace("n / 0", "n / 2"))
        with side_by_side(1):
            outcomes = [one.outcome for one in press(page).chunks]
        self.assertIn("reused", outcomes[2:])

    def test_whoever_ends_a_pressing_ends_what_runs_ahead(self) -> None:
        lines = "while not __import__('os').path.exists('go{n}'): pass"
        text = HEAD + chunk("short", "slowly(1)") + several(2, lines)
        page, stopper = self.write("page.md", text), Stopper()
        (self.folder / "go0").touch()

        def stop() -> None:
            while stopper.running is None or stopper.running.label != "c1":
                time.sleep(0.01)
            stopper.stop(at_once=True)

        ending = threading.Thread(target=stop)
        ending.start()
        with side_by_side(3), self.assertRaises(Stopped):
            press_order(Order(page, "page.md", stopper=stopper))
        ending.join()
        self.assertEqual(_sessions_in(self.folder), 0)

    def test_the_program_takes_all_processors(self) -> None:
        self.write(
            "page.md",
            "---\nchunks-at-once: 3\n---\n" + HEAD + several(4, "print(sum(slowly({n}) for n in range(40)))"),
        )
        done = worn("press", "page.md", folder=self.folder)
        self.assertEqual((done.returncode, done.stderr.count("ran in")), (0, 5), done.stderr)


def _sessions_in(folder: Path) -> int:
    """How many processes work in a folder, after a moment for those that are just ending."""
    for _ in range(100):
        places = [os.path.realpath(place) for place in Path("/proc").glob("[0-9]*/cwd") if os.access(place, os.R_OK)]
        count = places.count(str(folder.resolve()))
        if not count:
            break
        time.sleep(0.05)
    return count
