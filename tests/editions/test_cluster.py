"""Editions on a cluster: a real scheduler and real workers on this machine, one of which dies."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time

from tests.cluster import ClusterCase
from tests.support import worn

PAGE = """
    ---
    given: {n: 1}
    editions: {combine: {n: [1, 2, 3, 4, 5, 6, 7, 8]}}
    ---

    ```python run #common show=nothing
    import time
    started = 1
    ```

    ```python run #own show=output
    time.sleep(0.5)
    assert given.n != 3, "unlucky"
    with open(f"log-{given.n}.txt", "a") as log:
        print("run", file=log)
    print("number", given.n + started)
    ```
"""


class Cluster(ClusterCase):
    def test_a_worker_dies_and_nothing_is_lost_or_doubled(self) -> None:
        self.write("page.md", PAGE)
        command = [
            sys.executable,
            "-m",
            "wornpage",
            "press",
            "page.md",
            "--all-editions",
            "--json",
            "--workers-at",
            self.address(),
        ]
        process = subprocess.Popen(command, cwd=self.folder, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        end = time.monotonic() + 90
        while len(list(self.folder.glob("pressed/page/*.html"))) < 2:
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)
        os.kill(self.workers[0].pid, signal.SIGKILL)
        out, err = process.communicate(timeout=120)
        self.assertEqual(process.returncode, 1, err)
        outcomes = {one["name"]: one["outcome"] for one in json.loads(out)["editions"]}
        self.assertEqual(outcomes, {str(n): "failed" if n == 3 else "pressed" for n in range(1, 9)})
        for n in (1, 2, 4, 5, 6, 7, 8):
            self.assertIn(f"number {n + 1}", (self.folder / "pressed" / "page" / f"{n}.html").read_text("utf-8"))
        done = subprocess.run(command, check=False, cwd=self.folder, capture_output=True, text=True, timeout=120)
        again = {one["name"]: one["outcome"] for one in json.loads(done.stdout)["editions"]}
        self.assertEqual([name for name, outcome in again.items() if outcome != "unchanged"], ["3"])

    def test_the_pages_of_a_volume_too(self) -> None:
        self.write("volume.yaml", "title: T\npages: [a.md, b.md, c.md]\n")
        for name in "abc":
            text = (
                f"---\ntitle: {name}\n---\n\n```python run\nprint('{name}' * 3, {'1 / 0' if name == 'c' else 1})\n```\n"
            )
            self.write(f"{name}.md", text)
        done = worn("bind", "--json", "--workers-at", self.address(), folder=self.folder)
        outcomes = {one["page"]: one["outcome"] for one in json.loads(done.stdout)["pages"]}
        self.assertEqual(outcomes, {"a.md": "pressed", "b.md": "pressed", "c.md": "failed"})
        self.assertIn("bbb 1", (self.folder / "bound/b.html").read_text("utf-8"))
