"""Single chunks on the workers of a cluster: the same page as here, whatever becomes of the workers."""

from __future__ import annotations

import os
import signal
import threading
from pathlib import Path
from unittest.mock import patch

from tests.cluster import ClusterCase
from wornpage.press import press
from wornpage.session.afar import asked
from wornpage.session.afar.cluster import AfarSession
from wornpage.session.tasks import ChunkTask, Position, Ran
from wornpage.tree.problem import PageError

HEAD = """```python run #load
import numpy as np
x = np.arange(40.0)
class Kind:
    def __init__(self, n): self.n = n
def slowly(n):
    return sum(float(np.sort(np.random.default_rng(n).normal(size=50_000)).mean()) for _ in range(n))
```

"""
FAR = "```python run #{label} where=cluster\n{code}\n```\n\n"
FIT = FAR.format(label="fit", code="kinds = [Kind(slowly(9)), x]\nkinds[1][0] += 1\nprint(kinds[0].n)")
OTHER = FAR.format(label="other", code="y = slowly(8)\nnp.random.random()\nprint(y, np.random.random(), len(dir()))")
HERE = "```python run #here\nz = slowly(7)\nprint(kinds[0].n + y, x[0], type(kinds[0]) is Kind)\n```\n\nIt is {= round(y, 6)}.\n"


class Afar(ClusterCase):
    def setUp(self) -> None:
        super().setUp()
        self.ran: list[tuple[str, str]] = []
        """Chunks that were sent away, each with what came of it: `ran`, or why it did not."""
        run = AfarSession.run

        def noted(session: AfarSession, task: ChunkTask, at: Position) -> Ran:
            try:
                ran = run(session, task, at)
            except Exception as why:
                self.ran.append((task.label, str(why)))
                raise
            ahead = "ahead " if session._is_ahead else ""
            self.ran.append((task.label, f"{ahead}{ran.result.failure.kind if ran.result.failure else 'ran'}"))
            return ran

        watched = patch.object(AfarSession, "run", noted)
        watched.start()
        self.addCleanup(watched.stop)

    def both(self, text: str, address: str) -> tuple[str, list[str]]:
        """The output of a page with the cluster, which must be what it is without; and what it warned of."""
        made = []
        for name, at in (("here", ""), ("there", address)):
            (self.folder / name).mkdir(exist_ok=True)
            page = self.write(f"{name}/page.md", text)
            try:
                done = press(page, workers_at=at)
            except PageError as error:
                made.append((str(error).replace(str(page), "page.md"), ()))
            else:
                made.append((done.outputs[0].path.read_text("utf-8"), done.warnings))
        self.assertEqual(made[1][0], made[0][0])
        return made[1][0], [problem.what for problem in made[1][1]]

    def test_pages_are_the_same_with_a_cluster(self) -> None:
        address = self.address()
        with self.subTest("several at once, and what needs them here"):
            text, warnings = self.both(HEAD + FIT + OTHER + HERE, address)
            self.assertEqual(warnings, [])
            self.assertIn("It is", text)
            self.assertEqual({label for label, _ in self.ran}, {"fit", "other"})
            self.assertTrue(all(how.endswith("ran") for _, how in self.ran), self.ran)
        with self.subTest("nothing runs again"):
            self.ran.clear()
            self.both(HEAD + FIT + OTHER + HERE + "\nMore words.\n", address)
            self.assertEqual(self.ran, [])
        with self.subTest("what needs it runs here, in a session that has run nothing above"):
            self.both(HEAD + FIT.replace("+= 1", "+= 2") + OTHER + HERE, address)
            self.assertEqual(self.ran, [("fit", "ran")])
        with self.subTest("a mistake is told in lines of the page"):
            text, _ = self.both(HEAD + FAR.format(label="fit", code="a = 1\nb = a / 0"), address)
            self.assertIn("page.md:12", text)
            self.assertIn("ZeroDivisionError", text)
        with self.subTest("what is written is written once, in its turn"):
            self.ran.clear()
            code = "open('log.txt', 'a').write('once ')\nprint(slowly(5))"
            self.both(HEAD + FIT + FAR.format(label="writes", code=code), address)
            self.assertEqual((self.folder / "there/log.txt").read_text(), "once ")
            self.assertEqual([how for label, how in self.ran if label == "writes"][-1], "ran")
        with self.subTest("what cannot be sent runs here"):
            above = "```python run #above\nimport json\njson.dumps = lambda *a, **b: 'mine'\n```\n\n"
            _, warnings = self.both(HEAD + above + FIT, address)
            self.assertEqual(len(warnings), 1, warnings)
            self.assertIn("`above`", warnings[0])

    def test_workers_that_are_not_alike_are_told(self) -> None:
        address = self.address()
        other = {**asked._of_this_program(), "numpy": "0.1"}
        with patch.object(asked, "_of_this_program", lambda: other):
            _, warnings = self.both(HEAD + FIT, address)
        self.assertIn("numpy is", warnings[0])
        with patch.object(asked, "_stamp", lambda environment: (1, 1)):
            _, warnings = self.both(HEAD + FIT.replace("(9)", "(6)"), address)
        self.assertIn("not the same folder", warnings[0])
        self.assertEqual(self.both(HEAD + FIT.replace("(9)", "(5)"), "tcp://127.0.0.1:1")[1][0][:9], "the chunk")

    def test_a_worker_that_dies_costs_a_run(self) -> None:
        address, begun = self.address(), self.folder / "begun"
        code = f"open({str(begun)!r}, 'a').write('.')\nimport time\ntime.sleep(3)\nprint('done')"

        def end_one() -> None:
            self.wait_for(begun)
            busy = next(one for one in self.workers if _children(one.pid))
            os.kill(busy.pid, signal.SIGKILL)

        page = self.write("there/page.md", HEAD + FAR.format(label="long", code=code))
        thread = threading.Thread(target=end_one)
        thread.start()
        done = press(page, workers_at=address)
        thread.join()
        self.assertIn("done", done.outputs[0].path.read_text("utf-8"))
        self.assertEqual([how for _, how in self.ran], ["ran"])
        self.assertEqual(begun.read_text(), "..")

    def test_a_scheduler_that_dies_has_the_chunk_run_here(self) -> None:
        address, begun = self.address(), self.folder / "begun"
        code = f"open({str(begun)!r}, 'a').write('.')\nimport time\ntime.sleep(2)\nprint('done')"

        def end_it() -> None:
            self.wait_for(begun)
            self.scheduler.kill()

        page = self.write("there/page.md", HEAD + FAR.format(label="long", code=code) + FIT)
        thread = threading.Thread(target=end_it)
        thread.start()
        done = press(page, workers_at=address)
        thread.join()
        self.assertIn("done", done.outputs[0].path.read_text("utf-8"))
        self.assertEqual([one.span.line for one in done.warnings if "cluster" in one.what], [10, 17])


def _children(number: int) -> str:
    return "".join(path.read_text() for path in Path(f"/proc/{number}/task").glob("*/children"))
