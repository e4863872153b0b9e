"""The store: nothing it suffers makes a pressing wrong, and nothing that others made is trusted."""

import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path
from unittest import mock

from tests.support import FolderCase, worn
from wornpage.press import Pressing, press
from wornpage.store import care, signing
from wornpage.store.place import store_of

PAGE = """
```python run #make
import matplotlib.pyplot as plt
x = list(range(2000))
plt.plot([1, 2])
```

```python run #use
print(sum(x))
```
"""


class StoreCase(FolderCase):
    """A page pressed once."""

    def setUp(self) -> None:
        super().setUp()
        self.page = self.write("p.md", PAGE)
        self.store = store_of(self.page)
        press(self.page)
        self.first = (self.folder / "p.html").read_bytes()

    def outcomes(self, pressing: Pressing) -> list[str]:
        return [str(chunk.outcome) for chunk in pressing.chunks]

    def again(self, use: str = "print(sum(x))") -> list[str]:
        """Press again with other code in the second chunk."""
        self.page.write_text(PAGE.replace("print(sum(x))", use).lstrip())
        return self.outcomes(press(self.page))


class Store(StoreCase):
    def test_what_still_holds_is_reused_and_going_back_runs_nothing(self) -> None:
        self.assertEqual(self.again(), ["reused", "reused"])
        self.assertEqual(self.again("print(max(x))"), ["reused", "ran"])
        self.assertEqual(self.again(), ["reused", "reused"])
        self.assertEqual((self.folder / "p.html").read_bytes(), self.first)

    def test_a_flipped_bit_is_noticed_and_the_chunk_simply_runs(self) -> None:
        for path in (self.store / "blobs").rglob("*"):
            if path.is_file():
                data = bytearray(path.read_bytes())
                data[len(data) // 2] ^= 1
                path.write_bytes(data)
        self.assertEqual(self.again("print(max(x))"), ["ran", "ran"])
        self.assertIn("1999", (self.folder / "p.html").read_text())
        for path in self.store.rglob("*.trace"):
            path.write_bytes(path.read_bytes()[:-3])
        self.assertEqual(self.again(), ["ran", "ran"])
        self.assertEqual((self.folder / "p.html").read_bytes(), self.first)

    def test_a_store_of_somebody_else_is_not_used_until_it_is_vouched_for(self) -> None:
        with mock.patch.object(signing, "user_key", lambda: b"somebody else"):
            self.assertEqual(self.again(), ["ran", "ran"])
        shutil.rmtree(self.store)
        with mock.patch.object(signing, "user_key", lambda: b"somebody else"):
            self.again()
        self.assertEqual(care.vouch(self.store) > 0, True)
        self.assertEqual(self.again(), ["reused", "reused"])

    def test_a_store_that_cannot_be_read_is_told_and_done_without(self) -> None:
        def closed(folder: object) -> None:
            raise PermissionError(13, "Permission denied", str(folder))

        with mock.patch("wornpage.store.place.os.scandir", closed):
            self.assertIn("cannot be read", str(press(self.page).warnings[0]))
        shutil.rmtree(self.store.parent.parent)
        self.store.parent.parent.write_text("a file in its place")
        self.assertIn("cannot be read", str(press(self.page).warnings[0]))
        for command in ("size", "trim", "clear", "vouch"):
            done = worn("store", command, folder=self.folder)
            self.assertEqual((done.returncode, "cannot be read" in done.stderr), (2, True), command)

    def test_a_store_that_cannot_be_written_is_read_and_nothing_is_kept(self) -> None:
        with mock.patch("wornpage.plan.walk.make_store", return_value=False):
            self.assertEqual(self.again("print(max(x))"), ["reused", "ran"])
            self.assertEqual(self.again("print(max(x))"), ["reused", "ran"])

    def test_a_full_disk_keeps_nothing_and_loses_nothing(self) -> None:
        shutil.rmtree(self.store)
        self.store.mkdir(parents=True)
        (self.store / "blobs").write_text("no folder, so nothing can be put there")
        self.assertEqual(self.again(), ["ran", "ran"])
        self.assertEqual((self.folder / "p.html").read_bytes(), self.first)

    def test_an_older_format_is_left_alone(self) -> None:
        self.store.rename(self.store.parent / "0")
        self.assertEqual(self.again(), ["ran", "ran"])
        self.assertTrue((self.store.parent / "0").is_dir())

    def test_what_is_generated_stays_out_of_version_control(self) -> None:
        self.assertEqual((self.folder / ".worn/.gitignore").read_text(), "*\n")

    def test_trimming_keeps_what_the_present_state_uses(self) -> None:
        self.again("print(max(x))")
        before = care.size(self.store).traces
        care.trim(self.store, days=0)
        self.assertEqual((before, care.size(self.store).traces), (3, 2))
        self.assertEqual(self.again("print(max(x))"), ["reused", "reused"])
        care.clear(self.store)
        self.assertEqual(self.again("print(max(x))"), ["ran", "ran"])

    def test_being_killed_at_any_moment_leaves_a_store_that_is_right(self) -> None:
        for delay in (0.25, 0.4, 0.55, 0.7):
            care.clear(self.store)
            self.page.write_text(PAGE.lstrip())
            program = subprocess.Popen(
                [sys.executable, "-m", "wornpage", "press", "p.md"],
                cwd=self.folder,
                stderr=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
            )
            time.sleep(delay)
            program.send_signal(signal.SIGKILL)
            program.wait()
            self.again()
            self.assertEqual((self.folder / "p.html").read_bytes(), self.first)

    def test_two_pressings_at_once_do_not_disturb_each_other(self) -> None:
        care.clear(self.store)
        self.write("q.md", PAGE.replace("range(2000)", "range(3000)"))
        command = [sys.executable, "-m", "wornpage", "press"]
        programs = [
            subprocess.Popen([*command, name], cwd=self.folder, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)
            for name in ("p.md", "p.md", "q.md")
        ]
        self.assertEqual([program.wait(60) for program in programs], [0, 0, 0])
        self.assertEqual((self.folder / "p.html").read_bytes(), self.first)
        self.assertEqual(self.again(), ["reused", "reused"])


class Commands(FolderCase):
    """What tells of the store, and uses it, from the command line."""

    PAGE = (
        "---\npress: {html: {colophon: yes}}\n---\n\n```python run #load\nimport pandas as pd\nf = pd.read_csv('d.csv')\n```\n\n"
        "```python run #sum\nprint(f.a.sum())\n```\n\n```python run #other\nprint('other')\n```\n\n{= len(f)} rows.\n\n{graph}\n"
    )

    def setUp(self) -> None:
        super().setUp()
        self.write("d.csv", "a\n1\n2\n")
        self.write("p.md", self.PAGE)
        self.assertEqual(worn("press", "p.md", folder=self.folder).returncode, 0)

    def said(self, *arguments: str) -> str:
        done = worn(*arguments, folder=self.folder)
        return done.stdout + done.stderr

    def test_nothing_to_do_is_said_at_once_and_no_file_is_touched(self) -> None:
        before = {path: path.stat().st_mtime_ns for path in self.folder.rglob("*") if path.is_file()}
        self.assertIn("nothing to do", self.said("press", "p.md"))
        self.assertEqual({path: path.stat().st_mtime_ns for path in self.folder.rglob("*") if path.is_file()}, before)
        for change in ("d.csv", "p.html"):
            self.write(change, "a\n1\n2\n3\n")
            self.assertNotIn("nothing to do", self.said("press", "p.md"))
        self.assertIn("<p>3 rows.</p>", (self.folder / "p.html").read_text())

    def test_status_says_what_is_stale_and_why_without_running(self) -> None:
        self.assertIn("everything is fresh", self.said("status", "p.md"))
        self.write("d.csv", "a\n1\n")
        said = self.said("status", "p.md")
        self.assertRegex(said, r"load +stale .*d\.csv changed")
        self.assertRegex(said, r"sum +stale .*reads `f`, which `load` will write anew")
        self.assertRegex(said, r"other +fresh")
        self.assertIn('"state": "stale"', self.said("status", "p.md", "--json"))

    def test_the_graph_is_drawn_told_and_in_the_page(self) -> None:
        said = self.said("graph", "p.md")
        self.assertRegex(said, r"(?s)d\.csv.*load.*sum")
        self.assertIn("g.svg", self.said("graph", "p.md", "--svg", "g.svg"))
        self.assertIn("<title>load to sum: f</title>", (self.folder / "g.svg").read_text())
        self.assertIn("What flows where: load from d.csv; sum from load; other.", (self.folder / "p.html").read_text())

    def test_run_shows_in_the_terminal_what_a_chunk_shows(self) -> None:
        done = worn("run", "p.md", "--only", "sum", folder=self.folder)
        self.assertEqual((done.returncode, done.stdout), (0, "3\n"))
        self.assertEqual(worn("run", "p.md", "--only", "smu", folder=self.folder).returncode, 2)

    def test_reproducing_tells_what_differs_chunk_by_chunk(self) -> None:
        self.assertEqual(worn("reproduce", "p.md", folder=self.folder).returncode, 0)
        self.write("d.csv", "a\n1\n5\n")
        done = worn("reproduce", "p.md", folder=self.folder)
        self.assertEqual(done.returncode, 1)
        self.assertRegex(done.stdout, r"(?s)data d\.csv: .*chunk `sum`: its output differs\n    -3\n    \+6")

    def test_the_colophon_is_the_same_for_a_partial_run(self) -> None:
        self.write("p.md", self.PAGE.replace("'other'", "'another'"))
        worn("press", "p.md", "--write-colophon", "partial.json", folder=self.folder)
        partial = (self.folder / "p.html").read_bytes()
        worn("press", "p.md", "--afresh", "--write-colophon", "full.json", folder=self.folder)
        self.assertEqual((self.folder / "p.html").read_bytes(), partial)
        self.assertEqual((self.folder / "partial.json").read_text(), (self.folder / "full.json").read_text())
        self.assertIn("Colophon", partial.decode())

    def test_options_that_steer_running(self) -> None:
        page = "---\ngiven: {{n: {n}}}\n---\n\n```python run #a rerun=always\nprint(1)\n```\n\n```python run #b when='given.n > 1'\nprint('shown')\n```\n\n```python run #c reads='in/*.txt' keep=no\ny = [1]\n```\n"
        self.write("o.md", page.format(n=1))
        self.write("in/a.txt", "1")
        first = self.outcomes()
        self.assertEqual(first, {"a": "ran", "b": "left out", "c": "ran"})
        self.assertEqual(self.outcomes(), {"a": "ran", "b": "left out", "c": "reused"})
        self.write("in/b.txt", "1")
        self.assertEqual(self.outcomes()["c"], "ran")
        self.write("o.md", page.format(n=2))
        self.assertEqual(self.outcomes()["b"], "ran")

    def outcomes(self) -> dict[str, str]:
        return {chunk.label: str(chunk.outcome) for chunk in press(Path(self.folder / "o.md")).chunks}
