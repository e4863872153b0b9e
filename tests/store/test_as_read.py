"""What was read is what was published: saves during a pressing, pages of one name, other people's programs, sessions killed."""

import json
import os
import signal
import subprocess
import sys
import threading
import time

from tests.support import FolderCase, worn
from wornpage.plan import manifest
from wornpage.press import press

SLOW = "---\ntitle: t\n---\n{words}\n\n```python run #slow\nimport time\nopen('begun', 'w').close()\ntime.sleep(1)\nprint('done')\n```\n"


class AsRead(FolderCase):
    """Whole pressings."""

    def begun(self) -> None:
        """Wait until the chunk runs."""
        deadline = time.monotonic() + 30
        while not (self.folder / "begun").exists() and time.monotonic() < deadline:
            time.sleep(0.02)

    def test_a_save_during_a_pressing_is_pressed_the_next_time(self) -> None:
        self.write("part.md", "first part")
        page = self.write("p.md", SLOW.format(words="first words\n\n{insert part.md}"))
        thread = threading.Thread(target=press, args=(page,))
        thread.start()
        self.begun()
        self.write("p.md", SLOW.format(words="second words\n\n{insert part.md}"))
        self.write("part.md", "second part")
        thread.join()
        said = worn("press", "p.md", folder=self.folder)
        self.assertNotIn("nothing to do", said.stderr)
        html = (self.folder / "p.html").read_text()
        self.assertTrue("second words" in html and "second part" in html)
        worn("press", "p.md", folder=self.folder)
        self.assertIn("nothing to do", worn("press", "p.md", folder=self.folder).stderr)

    def test_pages_of_one_name_in_one_project_have_nothing_in_common(self) -> None:
        self.write("worn.yaml", "")
        for name in ("a", "b"):
            self.write(f"{name}/data.txt", name)
            self.write(
                f"{name}/p.md",
                "---\ntitle: t\n---\n```python run #it\nimport os\nprint(open('data.txt').read())\nprint(os.getcwd())\n```\n",
            )
            time.sleep(0.05)  # what is saved this shortly before may have been saved after
            press(self.folder / name / "p.md")
        held = [
            json.loads(manifest.colophon_file(self.folder / name / "p.md").read_text())["data"] for name in ("a", "b")
        ]
        self.assertNotEqual(*held)
        for name in ("a", "b"):
            self.assertRegex((self.folder / name / "p.html").read_text(), f"/{name}[\n<]")
            self.assertIn("nothing to do", worn("press", f"{name}/p.md", folder=self.folder).stderr)
        self.assertIn("a/p.md", worn("store", "size", "a/p.md", folder=self.folder).stdout)

    def test_what_another_program_opens_is_no_read_of_ours(self) -> None:
        self.write("other.txt", "x")
        page = self.write("p.md", SLOW.format(words=""))
        thread = threading.Thread(target=press, args=(page,))
        thread.start()
        self.begun()
        subprocess.run(["cat", str(self.folder / "other.txt")], capture_output=True, check=True)
        thread.join()
        self.assertNotIn("other.txt", manifest.colophon_file(page).read_text())

    def test_globs_that_are_read_count_from_the_moment_they_are_said(self) -> None:
        text = "---\ntitle: t\n---\n```python run #it{}\nprint(1)\n```\n"
        self.write("d.csv", "1")
        page = self.write("p.md", text.format(""))
        press(page)
        page.write_text(text.format(" reads=*.csv"))
        time.sleep(0.05)  # what is saved this shortly before may have been saved after
        self.assertEqual([chunk.outcome for chunk in press(page).chunks], ["ran"])
        self.assertIn("nothing to do", worn("press", "p.md", folder=self.folder).stderr)
        self.write("d.csv", "2")
        self.assertEqual([chunk.outcome for chunk in press(page).chunks], ["ran"])

    def test_a_session_that_is_killed_from_outside_is_told_and_what_was_done_is_kept(self) -> None:
        page = self.write(
            "p.md",
            "---\ntitle: t\n---\n```python run #first\nprint(1)\n```\n"
            + SLOW.format(words="").partition("---\n\n")[2].replace("sleep(1)", "sleep(60)"),
        )
        process = subprocess.Popen(
            [sys.executable, "-m", "wornpage", "press", str(page)], stderr=subprocess.PIPE, text=True
        )
        self.begun()
        children = subprocess.run(
            ["pgrep", "-P", str(process.pid)], capture_output=True, text=True, check=False
        ).stdout.split()
        for child in children:
            os.kill(int(child), signal.SIGKILL)
        said = process.communicate(timeout=30)[1]
        self.assertEqual(process.returncode, 1)
        self.write(".worn/store/2/running/left-behind", "")
        self.assertRegex(said, r"p\.md:\d+:\d+: in chunk `slow`: the session ended")
        page.write_text(page.read_text().replace("sleep(60)", "sleep(0)"))
        self.assertEqual([chunk.outcome for chunk in press(page).chunks], ["reused", "ran"])
        self.assertEqual(
            list((self.folder / ".worn/store/2/running").iterdir()), [], "locks that nobody holds are taken away"
        )

    def test_marks_that_draw_numbers_draw_the_same_in_a_partial_run(self) -> None:
        text = "---\ntitle: t\n---\n```python run #a\nimport random\nx = {}\nrandom.random()\n```\n\n{{= __import__('random').random()}} {{= random.random()}} {{= x}}\n"
        page = self.write("p.md", text.format(1))
        press(page)
        page.write_text(text.format(2))
        press(page)
        partial = page.with_suffix(".html").read_bytes()
        press(page, afresh=True)
        self.assertEqual(page.with_suffix(".html").read_bytes(), partial)

    def test_marks_may_look_at_what_is_live(self) -> None:
        code = "import sqlite3\nshelf = sqlite3.connect(':memory:')"
        text = f"---\ntitle: t\n---\n```python run #a\n{code}\n```\n\nSo {{= shelf.total_changes}}.\n"
        self.assertIn("<p>So 0.</p>", self.html(text))

    def test_a_mark_that_changes_a_setting_is_a_mistake_with_its_place(self) -> None:
        found = self.faults(
            "---\ntitle: t\n---\n```python run #a\nimport decimal\n```\n\n{= setattr(decimal.getcontext(), 'prec', 5)}\n"
        )
        self.assertEqual((found[0].span.line, "only looks" in found[0].what), (8, True))
