"""How commands end: the words and the status, whatever happens within."""

from __future__ import annotations

import subprocess
import sys
import unittest

START = "import os, signal, sys\nfrom wornpage.cli.ending import ended\nfrom wornpage.tree.problem import UsageError\n"
ENDED = """
def act():
    try:
        os.kill(os.getpid(), signal.SIGTERM)
        signal.pause()
    finally:
        os.close(9999)  # what was broken off in the midst
ended(act)
"""


class Ending(unittest.TestCase):
    def run_code(self, code: str) -> tuple[int, str]:
        done = subprocess.run([sys.executable, "-c", START + code], capture_output=True, text=True, check=False)
        return done.returncode, done.stderr

    def test_who_is_told_to_go_goes_without_blaming_itself(self) -> None:
        self.assertEqual(self.run_code(ENDED), (143, ""))

    def test_statuses(self) -> None:
        for act, status in (("lambda: 0", 0), ("lambda: None", 0), ("lambda: 1", 1), ("lambda: sys.exit(3)", 3), ("lambda: sys.exit(130)", 1)):  # fmt: skip
            self.assertEqual(self.run_code(f"ended({act})"), (status, ""), act)
        self.assertEqual(
            self.run_code("def act():\n    raise UsageError('no such')\nended(act)"), (2, "worn: no such\n")
        )
        status, said = self.run_code("ended(lambda: 1 / 0)")
        self.assertEqual((status, "fault of Worn Page itself" in said, "Traceback" in said), (1, True, False))
