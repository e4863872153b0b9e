"""The program as people use it."""

import json
import os
import signal
import subprocess
import sys
import time

from tests.support import FolderCase, worn
from wornpage.starters import ENDINGS, KINDS


class Program(FolderCase):
    """Commands, messages, exit statuses."""

    def test_new_writes_a_page_that_presses_as_it_is_and_keeps_what_is_there(self) -> None:
        made = worn("new", "my-report", folder=self.folder)
        self.assertEqual((made.returncode, made.stdout), (0, "my-report.md\n.gitignore\n.gitattributes\n"))
        pressed = worn("press", "my-report.md", "--as", "html,pdf", folder=self.folder)
        self.assertEqual((pressed.returncode, pressed.stdout), (0, "my-report.html\nmy-report.pdf\n"), pressed.stderr)
        self.assertIn("<h1>My report</h1>", (self.folder / "my-report.html").read_text())
        self.assertEqual(worn("new", "my-report", folder=self.folder).returncode, 2)

    def test_every_kind_of_page_presses_as_it_is(self) -> None:
        for kind in KINDS:
            with self.subTest(kind):
                self.assertEqual(worn("new", kind, "--kind", kind, folder=self.folder).returncode, 0)
                page, outputs = f"{kind}{ENDINGS.get(kind, '.md')}", "tex,tex-pdf" if kind in ENDINGS else "html,pdf"
                done = worn("press", page, "--as", outputs, folder=self.folder)
                self.assertEqual((done.returncode, "warning" in done.stderr), (0, False), done.stderr)
        self.assertIn("ref-example2020", (self.folder / "manuscript.html").read_text())

    def test_running_one_chunk_runs_what_it_needs_and_falls_back_to_all_above(self) -> None:
        codes = {"a": "x = 1", "slow": "y = 2", "b": "x += 1", "c": "print('c is', x)", "d": "print('d is', eval('y'))"}
        self.write("p.md", "\n\n".join(f"```python run #{label}\n{code}\n```" for label, code in codes.items()) + "\n")
        done = worn("run", "p.md", "--only", "c", folder=self.folder)
        self.assertEqual((done.stdout.strip(), "slow" in done.stderr), ("c is 2", False))
        self.assertIn("d is 2", worn("run", "p.md", "--only", "#d", folder=self.folder).stdout)
        self.assertEqual(worn("run", "p.md", "--only", "e", folder=self.folder).returncode, 2)

    def test_a_fault_of_ours_is_said_in_words_and_kept_in_a_file(self) -> None:
        code = "from wornpage.cli.ending import ended\nended(lambda: {}['gone'])"
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False, cwd=self.folder,
                              env={**os.environ, "TMPDIR": str(self.folder)})  # fmt: skip
        self.assertEqual((done.returncode, "Traceback" in done.stderr), (1, False))
        (kept,) = self.folder.glob("worn-fault-*.txt")
        self.assertIn("KeyError: 'gone'", kept.read_text())
        self.assertIn(str(kept), done.stderr)

    def test_what_the_system_forbids_is_no_fault_of_ours(self) -> None:
        code = "from wornpage.cli.ending import ended\ndef act():\n    raise OSError(28, 'No space left on device', 'a.html')\nended(act)"
        done = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=False, cwd=self.folder
        )
        self.assertEqual(done.returncode, 1)
        self.assertIn("a.html: No space left on device", done.stderr)
        self.assertNotIn("fault", done.stderr)

    def test_help_names_every_command_and_the_version_is_said(self) -> None:
        text = worn("--help", folder=self.folder).stdout
        for command in ("new", "press", "demo", "given", "sources", "stationery"):
            self.assertIn(command, text)
            self.assertEqual(worn(command, "--help", folder=self.folder).returncode, 0)
        self.assertRegex(worn("--version", folder=self.folder).stdout, r"^worn \d+\.\d+")

    def test_json_is_one_object_on_standard_output_also_when_it_fails(self) -> None:
        self.write("p.md", "```python run #a\n1\n```\n\n```python run #b\n1/0\n```\n\n```python run #c\n2\n```\n")
        done = worn("press", "p.md", "--json", folder=self.folder)
        shown = json.loads(done.stdout)
        self.assertEqual((done.returncode, done.stderr), (1, ""))
        self.assertEqual(
            [(c["label"], c["outcome"]) for c in shown["chunks"]], [("a", "ran"), ("b", "failed"), ("c", "left out")]
        )
        self.assertEqual((shown["outputs"], shown["problems"][0]["line"]), ([], 6))
        self.write("p.md", "{= 1}")
        shown = json.loads(worn("press", "p.md", "--json", folder=self.folder).stdout)
        self.assertEqual([(o["kind"], o["written"]) for o in shown["outputs"]], [("html", True)])

    def test_exit_status_2_for_the_command_line_and_1_for_the_page(self) -> None:
        self.write("p.md", "x")
        self.assertEqual(worn("press", "p.md", "--as", "htm", folder=self.folder).returncode, 2)
        self.assertEqual(worn("press", folder=self.folder).returncode, 2)
        missing = worn("press", "q.md", folder=self.folder)
        self.assertEqual(missing.returncode, 1)
        self.assertEqual(missing.stderr.count("\n"), 1)
        self.assertTrue(missing.stderr.startswith("q.md:1:1: "), missing.stderr)

    def test_odd_files_are_no_trouble(self) -> None:
        cases = {
            "empty.md": b"", "no front.md": b"words\n", "bom.md": b"\xef\xbb\xbf---\r\ntitle: x\r\n---\r\n\r\n# A\r\n\ttab\r\n",
            "Übung (1)/p q.md": b"```python run\nimport os; print(os.path.basename(os.getcwd()))\n```\n",
        }  # fmt: skip
        for name, data in cases.items():
            self.write(name, data)
            done = worn("press", name, "--as", "html,pdf", folder=self.folder)
            self.assertEqual(done.returncode, 0, (name, done.stderr))
        self.assertIn("Übung (1)", (self.folder / "Übung (1)/p q.html").read_text())
        self.write("latin.md", "Grüße".encode("latin-1"))
        self.assertTrue(worn("press", "latin.md", folder=self.folder).stderr.startswith("latin.md:1:3: "))

    def test_a_failure_leaves_earlier_outputs_as_they_were(self) -> None:
        self.write("p.md", "```python run\nprint('first')\n```\n")
        self.assertEqual(worn("press", "p.md", folder=self.folder).returncode, 0)
        before = (self.folder / "p.html").read_bytes()
        for code in ("1/0", "import os; os._exit(0)", "exit()", "x = = 1"):
            self.write("p.md", f"Words.\n\n```python run #bad\n{code}\n```\n")
            done = worn("press", "p.md", folder=self.folder)
            self.assertEqual(done.returncode, 1)
            self.assertRegex(done.stderr, r"(?m)^p\.md:4:\d+: in chunk `bad`: ")
            self.assertNotIn("wornpage/", done.stderr)
        self.assertEqual((self.folder / "p.html").read_bytes(), before)
        self.assertEqual([p.name for p in self.folder.glob(".*.part")], [])

    def test_a_missing_name_is_told_apart(self) -> None:
        page = "```python run #use\n{}\n```\n\n```python run #define\nlate = 1\n```\n"
        for code, words in (
            ("late", "`define`"),
            ("np.nan", "import numpy as np"),
            ("latte = 1\nlat", "No chunk"),
            ("import nonesuch", "not installed"),
        ):
            self.write("p.md", page.format(code))
            self.assertIn(words, worn("press", "p.md", folder=self.folder).stderr)

    def test_ctrl_c_ends_the_session_and_names_the_chunk(self) -> None:
        self.write(
            "p.md",
            "```python run #slow\nimport time, os\nopen('pid', 'w').write(str(os.getpid()))\ntime.sleep(60)\n```\n",
        )
        program = subprocess.Popen(
            [sys.executable, "-m", "wornpage", "press", "p.md"],
            cwd=self.folder,
            stderr=subprocess.PIPE,
            text=True,
        )
        pid = self.folder / "pid"
        while not (pid.exists() and pid.read_text()):
            time.sleep(0.02)
        time.sleep(0.5)  # now it sleeps, on the line after
        program.send_signal(signal.SIGINT)
        _, said = program.communicate(timeout=20)
        self.assertEqual(program.returncode, 1)
        self.assertIn("p.md:4:1: in chunk `slow`: broken off", said)
        with self.assertRaises(ProcessLookupError):
            os.kill(int(pid.read_text()), 0)

    def test_what_was_started_ends_with_a_program_that_is_ended(self) -> None:
        self.write(
            "p.md", "```python run\nimport os\nopen('pid', 'w').write(str(os.getpid()))\nwhile True: pass\n```\n"
        )
        program = subprocess.Popen(
            [sys.executable, "-m", "wornpage", "press", "p.md"], cwd=self.folder, stderr=subprocess.DEVNULL
        )
        pid = self.folder / "pid"
        while not (pid.exists() and pid.read_text()):
            time.sleep(0.02)
        program.terminate()
        self.assertEqual(program.wait(20), 128 + signal.SIGTERM)
        with self.assertRaises(ProcessLookupError):
            os.kill(int(pid.read_text()), 0)

    def test_the_second_pressing_writes_the_same_bytes(self) -> None:
        self.write(
            "p.md",
            "{= {'b', 'a', 'c'}}\n\n```python run\nimport random; print(random.random(), {'x', 'y', 'z'}, object())\n```\n",
        )
        worn("press", "p.md", folder=self.folder)
        first = (self.folder / "p.html").read_bytes()
        self.assertIn("(unchanged)", worn("press", "p.md", folder=self.folder).stdout)
        self.assertEqual((self.folder / "p.html").read_bytes(), first)
