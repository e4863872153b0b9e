"""All editions of a page, pressed by the real program: failures, interruptions, processes that die, what is shared."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import textwrap
import time
import unittest
from pathlib import Path
from typing import Any

from tests.support import FolderCase, worn

PAGE = """
    ---
    title: "Number {= given.n}"
    given:
      n: 1
    editions:
      table: numbers.csv
      name: "number {= given.n}"
      headline: {Square: square}
    ---

    ```python run #common
    shared = list(range(1000))
    ```

    ```python run #own show=output
    assert given.n != 13, "unlucky"
    square = given.n ** 2 + shared[0]
    print(square)
    ```
"""


class Editions(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("page.md", PAGE)
        self.table([1, 2, 3])

    def table(self, numbers: list[int]) -> None:
        """Let these be the editions."""
        self.write("numbers.csv", "n,note\n" + "".join(f"{n},x\n" for n in numbers))

    def press(self, *arguments: str, status: int = 0) -> dict[str, Any]:
        """Outcome and chunks run of each edition, by name."""
        done = worn("press", "page.md", "--all-editions", "--json", "--jobs", "2", *arguments, folder=self.folder)
        self.assertEqual(done.returncode, status, done.stdout + done.stderr)
        self.data = json.loads(done.stdout)
        return {one["name"]: (one["outcome"], one["chunks"]["ran"]) for one in self.data["editions"]}

    def test_what_is_declared_no_more_is_taken_away_and_what_failed_is_marked(self) -> None:
        self.press()
        kept = self.folder / "pressed" / "page"
        (kept / "number 3.html").write_text("changed by hand")
        self.table([1])
        done = worn("press", "page.md", "--all-editions", folder=self.folder)
        self.assertIn("taken away: number 2", done.stderr)
        self.assertEqual(sorted(path.name for path in kept.iterdir()), ["index.html", "number 1.html", "number 3.html"])
        self.write("page.md", PAGE.replace("square = given", "square = 1 / 0 + given"))
        self.press(status=1)
        self.assertIn("number 1</a><em> (out of date)</em>", (kept / "index.html").read_text("utf-8"))

    def test_pages_beside_each_other_have_folders_of_their_own(self) -> None:
        self.write("other.md", PAGE.replace("Number", "Other"))
        self.press()
        worn("press", "other.md", "--all-editions", folder=self.folder)
        for name, title in (("page", "Number 1"), ("other", "Other 1")):
            self.assertIn(title, (self.folder / "pressed" / name / "number 1.html").read_text("utf-8"))

    def test_only_what_must_run_runs(self) -> None:
        ran = self.press()
        self.assertEqual({outcome for outcome, _ in ran.values()}, {"pressed"})
        self.assertEqual(sum(count for _, count in ran.values()), 4, "what all share ran once")
        self.assertEqual(set(self.press().values()), {("unchanged", 0)})
        self.table([1, 5, 3])
        again = self.press()
        self.assertEqual(again["number 5"], ("pressed", 1))
        self.assertEqual({again["number 1"], again["number 3"]}, {("unchanged", 0)})
        made = (self.folder / "pressed" / "page" / "number 5.html").read_text("utf-8")
        self.assertIn("25", made)
        page = worn("press", "page.md", "--given", "n=5", folder=self.folder)
        self.assertIn("2 reused", page.stderr)

    def test_a_shared_chunk_that_adds_to_a_file_runs_once_for_all(self) -> None:
        # Each edition comes to it while the one before is still at it, and has already changed the file.
        arrive = "```python run #arrive\nimport time\ntime.sleep(0.3 * given.n)\n```"
        code = (
            'with open("log.txt", "a") as log:\n    log.write("one\\n")\nlines = open("log.txt").read()\ntime.sleep(1)'
        )
        page = textwrap.dedent(PAGE).replace("shared = list(range(1000))", code).replace("shared[0]", "len(lines)")
        page = page.replace("```python run #common", f"{arrive}\n\n```python run #common")
        self.write("page.md", page)
        self.press()
        self.assertEqual((self.folder / "log.txt").read_text(), "one\n")
        self.assertEqual({outcome for outcome, _ in self.press().values()}, {"unchanged"})
        for times, seconds in ((2, "0.31"), (3, "0.32")):  # other pressings, in which it finds another file
            self.write("page.md", page.replace("0.3 *", f"{seconds} *"))
            self.press()
            self.assertEqual((self.folder / "log.txt").read_text(), "one\n" * times)
        told = [one["what"] for edition in self.data["editions"] for one in edition["problems"]]
        self.assertEqual(sum("reads log.txt and changes it" in what for what in told), 1)

    def test_an_edition_that_fails_stops_no_other(self) -> None:
        self.table([1, 13, 3])
        ran = self.press(status=1)
        self.assertEqual([ran[f"number {n}"][0] for n in (1, 13, 3)], ["pressed", "failed", "pressed"])
        failed = next(one for one in self.data["editions"] if one["outcome"] == "failed")
        self.assertEqual(failed["problems"][0]["line"], 16)
        said = worn("press", "page.md", "--all-editions", folder=self.folder)
        self.assertEqual(said.returncode, 1)
        self.assertIn("failed: number 13", said.stderr)
        self.assertIn("page.md:16", said.stderr)
        self.assertIn("AssertionError: unlucky", said.stderr)

    def test_a_file_in_the_way_is_nobodys_fault_and_hides_no_other(self) -> None:
        self.table([13, 1])
        self.write("pressed/page", "a file")
        self.press(status=1)
        self.assertEqual(len(self.data["editions"]), 2)
        self.assertIsNone(self.data["index"])
        said = worn("press", "page.md", "--all-editions", folder=self.folder)
        self.assertEqual(said.returncode, 1)
        for words in ("AssertionError: unlucky", "failed: number 1\n", "index.html cannot be written"):
            self.assertIn(words, said.stderr)
        self.assertNotIn("fault of Worn Page", said.stderr)

    def test_the_index_lists_them_all(self) -> None:
        self.press("--edition", "number 2")
        index = (self.folder / "pressed" / "page" / "index.html").read_text("utf-8")
        self.assertIn('href="./number%202.html"', index)
        self.assertNotIn('href="./number%201.html"', index)
        self.assertIn("number 1", index)
        self.assertIn("Square", index)
        self.assertRegex(index, r">4<")

    def test_they_are_listed_with_how_they_stand(self) -> None:
        self.press("--where", "n <= 2")
        self.table([1, 2, 3])
        page = self.folder / "page.md"
        listed = json.loads(worn("editions", "page.md", "--json", folder=self.folder).stdout)["editions"]
        self.assertEqual([one["state"] for one in listed], ["fresh", "fresh", "not pressed yet"])
        page.write_text(page.read_text() + "\nMore.\n")
        shown = worn("editions", "page.md", folder=self.folder)
        self.assertEqual((shown.stdout.count("stale"), shown.returncode), (2, 0))

    def test_other_commands_take_an_edition_too(self) -> None:
        self.press()
        shown = worn("run", "page.md", "--edition", "number 3", "--only", "own", folder=self.folder)
        self.assertIn("9", shown.stdout)
        status = worn("status", "page.md", "--edition", "number 3", folder=self.folder)
        self.assertIn("everything is fresh", status.stdout + status.stderr)
        again = worn("reproduce", "page.md", "--edition", "number 3", folder=self.folder)
        self.assertEqual(again.returncode, 0, again.stdout)
        wrong = worn("status", "page.md", "--edition", "nubmer 3", folder=self.folder)
        self.assertEqual((wrong.returncode, "'number 3'" in wrong.stderr), (2, True))

    def test_what_makes_no_sense_is_told(self) -> None:
        for arguments, status in (
            (("--jobs", "2"), 2),
            (("--edition", "nubmer 1"), 2),
            (("--all-editions", "--workers-at", "tcp://127.0.0.1:1"), 2),
        ):
            with self.subTest(arguments):
                done = worn("press", "page.md", *arguments, folder=self.folder)
                self.assertEqual(done.returncode, status, done.stderr)
                self.assertNotIn("Traceback", done.stderr)


@unittest.skipUnless(hasattr(signal, "SIGKILL"), "signals of POSIX")
class BrokenOff(FolderCase):
    SLOW = """
        ---
        given: {n: 1}
        editions: {combine: {n: [1, 2, 3, 4, 5, 6]}}
        ---

        ```python run #own show=output
        import time
        time.sleep(0.4)
        print("number", given.n)
        ```
    """

    def begun(self) -> subprocess.Popen[str]:
        """A pressing that has come to its first edition."""
        self.write("page.md", self.SLOW)
        process = subprocess.Popen(
            [sys.executable, "-m", "wornpage", "press", "page.md", "--all-editions", "--jobs", "2"],
            cwd=self.folder, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        self.addCleanup(process.communicate)
        self.wait_for(self.remembered)
        return process

    def remembered(self) -> int:
        """How many editions have come to their end."""
        return len(list(self.folder.glob(".worn/store/*/manifests/page.md/*.json")))

    def wait_for(self, what: Any) -> Any:
        """What a function gives, once it gives something."""
        end = time.monotonic() + 60
        while not (found := what()):
            self.assertLess(time.monotonic(), end)
            time.sleep(0.02)
        return found

    def test_it_goes_on_where_it_was_broken_off(self) -> None:
        process = self.begun()
        process.send_signal(signal.SIGINT)
        process.communicate(timeout=60)
        self.assertEqual(process.returncode, 1)
        self.assertFalse(workers_of(self.folder), "no process is left behind")
        made = self.remembered()
        self.assertLess(made, 6)
        again = json.loads(worn("press", "page.md", "--all-editions", "--json", folder=self.folder).stdout)["editions"]
        outcomes = [one["outcome"] for one in again]
        self.assertEqual((outcomes.count("unchanged"), outcomes.count("pressed")), (made, 6 - made))

    def test_a_process_that_is_killed_loses_no_edition(self) -> None:
        process = self.begun()
        os.kill(self.wait_for(lambda: workers_of(self.folder))[0], signal.SIGKILL)
        _, said = process.communicate(timeout=60)
        self.assertEqual(process.returncode, 0, said)
        for n in range(1, 7):
            self.assertIn(f"number {n}", (self.folder / "pressed" / "page" / f"{n}.html").read_text("utf-8"))


def workers_of(folder: Path) -> list[int]:
    """The processes that press editions in a folder."""
    found = []
    for process in Path("/proc").glob("[0-9]*"):
        try:
            command = (process / "cmdline").read_bytes()
            if b"wornpage.editions.worker" in command and (process / "cwd").readlink() == folder.resolve():
                found.append(int(process.name))
        except OSError:
            continue
    return found
