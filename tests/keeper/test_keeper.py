"""A process that does commands: the same words, files and statuses as without it, in the surroundings of whoever asks."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

from tests.support import FolderCase
from wornpage.keeper.place import wanted

SLOW = "```python run #a\nimport time\nopen('begun', 'w').close()\ntime.sleep(60)\n```\n"


class Keepers(FolderCase):
    maxDiff = None

    def setUp(self) -> None:
        super().setUp()
        self.env = {**os.environ, "NO_COLOR": "1", "XDG_RUNTIME_DIR": str(self.folder / "r"), "XDG_CONFIG_HOME": str(self.folder / "c")}  # fmt: skip
        self.env.pop("WORN_WARM", None)
        self.write("c/wornpage/settings.yaml", "# my settings\nwarm: yes\n")
        self.write("p/page.md", "---\ntitle: é\n---\n\nOf {= 1 + 1}.\n")
        self.addCleanup(self._end)

    def _end(self) -> None:
        for path in (self.folder / "r").rglob("*.warm"):
            path.unlink()

    @property
    def sockets(self) -> list[Path]:
        return list((self.folder / "r" / "wornpage").glob("*.warm"))

    def worn(self, *arguments: str, **env: str) -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-m", "wornpage", *arguments]
        return subprocess.run(command, cwd=self.folder / "p", capture_output=True, text=True, env={**self.env, **env}, check=False, timeout=120)  # fmt: skip

    def begin(self) -> None:
        self.worn("status", "page.md")
        for _ in range(200):
            if self.sockets:
                return
            time.sleep(0.05)
        self.fail("there is no keeper")

    def test_words_files_and_statuses_are_the_same(self) -> None:
        self.begin()
        (self.folder / "p" / "bad.md").write_text("Of {= nothing}.\n")
        here = [path.stat().st_ino for path in self.sockets]
        for arguments in (["press", "page.md"], ["press", "page.md", "--json", "--afresh"], ["status", "page.md"], ["press", "bad.md"], ["press", "none.md"], ["press"], ["run", "page.md"], ["press", "page.md", "--as", "nothing"]):  # fmt: skip
            warm = self.worn(*arguments)
            cold = self.worn(*arguments, WORN_WARM="no")
            self.assertEqual(warm.returncode, cold.returncode, arguments)
            for one, other in ((warm.stdout, cold.stdout), (warm.stderr, cold.stderr)):
                self.assertEqual([self.plain(line) for line in one.splitlines()], [self.plain(line) for line in other.splitlines()])  # fmt: skip
        self.assertEqual([path.stat().st_ino for path in self.sockets], here, "it is the same keeper all the time")

    def plain(self, line: str) -> str:
        """A line without how long it took, and whether the file was there."""
        words = line.replace("  (unchanged)", "").split()
        return " ".join("T" if word.replace(".", "").strip("(),").isdigit() or word in {"ms", "s", "ms)"} else word for word in words).replace("nothing to do T T", "pressed: T T") if "JSON" not in line else line  # fmt: skip

    def test_it_works_in_the_surroundings_of_who_asks(self) -> None:
        self.begin()
        (self.folder / "p" / "page.md").write_text(
            '```python run #a\nimport os\nprint(os.environ.get("MARLOW"), os.getcwd())\n```\n'
        )
        for value in ("one", "two"):
            self.worn("press", "page.md", MARLOW=value)
            self.assertIn(f"{value} {self.folder / 'p'}", (self.folder / "p" / "page.html").read_text())

    def test_breaking_off_breaks_off_the_work(self) -> None:
        self.begin()
        (self.folder / "p" / "slow.md").write_text(SLOW)
        command = [sys.executable, "-m", "wornpage", "press", "slow.md"]
        for number in (signal.SIGINT, signal.SIGKILL):
            (self.folder / "p" / "begun").unlink(missing_ok=True)
            work = subprocess.Popen(command, cwd=self.folder / "p", env=self.env, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)  # fmt: skip
            for _ in range(400):
                if (self.folder / "p" / "begun").exists():
                    break
                time.sleep(0.05)
            work.send_signal(number)
            _, said = work.communicate(timeout=20)
            if number == signal.SIGINT:
                self.assertEqual((work.returncode, "Traceback" in said), (1, False), said)
            for _ in range(100):
                left = subprocess.run(
                    ["pgrep", "-f", "driver import main.*"], capture_output=True, text=True, check=False
                )
                if not [one for one in left.stdout.split() if self.is_here(one)]:
                    break
                time.sleep(0.1)
            else:
                self.fail("a session goes on")

    def is_here(self, process: str) -> bool:
        try:
            return Path(f"/proc/{process}/cwd").resolve() == (self.folder / "p").resolve()
        except OSError:
            return False

    def test_a_folder_of_others_and_sockets_of_nobody_are_left_alone(self) -> None:
        self.begin()
        (self.folder / "r" / "wornpage").chmod(0o755)
        self.assertEqual(self.worn("press", "page.md").returncode, 0)
        (self.folder / "r" / "wornpage").chmod(0o700)
        path = self.sockets[0]
        path.unlink()
        with socket.socket(socket.AF_UNIX) as silent:  # somebody who never answers
            silent.bind(str(path))
            silent.listen(4)
            (self.folder / "p" / "page.md").write_text("Of {= 2 + 2}.\n")
            command = [sys.executable, "-m", "wornpage", "press", "page.md"]
            done = subprocess.run(command, cwd=self.folder / "p", env=self.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=False)  # fmt: skip
        self.assertEqual((done.returncode, "Of 4." in (self.folder / "p" / "page.html").read_text()), (0, True))

    def test_what_the_settings_say(self) -> None:
        before = dict(os.environ)
        self.addCleanup(lambda: (os.environ.clear(), os.environ.update(before)))
        os.environ.pop("WORN_WARM", None)
        os.environ["XDG_CONFIG_HOME"] = str(self.folder / "c")
        for text, said in (
            ("warm: yes", "yes"),
            ("a: b\nwarm:  'no' # x", "no"),
            ("warmer: yes", ""),
            ("warm: maybe # x", "maybe"),
            ("", ""),
        ):
            self.write("c/wornpage/settings.yaml", text)
            self.assertEqual(wanted(), said, text)
        os.environ["WORN_WARM"] = "no"
        self.assertEqual(wanted(), "no")
