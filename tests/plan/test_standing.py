"""Deciding, and standing at a place: what is run again in silence, and what need not be."""

import unittest
from unittest import mock

from tests.support import FolderCase
from wornpage.plan.deciding import Decider, Fresh, LeftOut, Stale
from wornpage.plan.growing import Growing
from wornpage.plan.standing import Sessions
from wornpage.press import prepare, press
from wornpage.source import read_page
from wornpage.store.place import store_of

PAGE = """---
given: {deep: no}
---

```python run #tools
import math

def root(x):
    return math.sqrt(x)
```

```python run #slow
values = [root(n) for n in range(5)]
rest = iter(values)
```

```python run #files
open("made.txt", "w").write("1")
```

```python run #never when="given.deep"
print("deep")
```

```python run #use
print(root(16), len(values))
```
"""


class Standing(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.write("p.md", PAGE)
        press(self.page)

    def decisions(self) -> dict[str, object]:
        """What would become of each chunk."""
        page = read_page(self.page, "p.md")
        settings = prepare(page)[0]
        growing = Growing(page, settings)
        decider, found = Decider(growing, store_of(page.path), ""), {}
        for index, step in enumerate(growing.steps):
            assert step.chunk is not None
            found[step.chunk.label] = decision = decider.decide(decider.question(step.chunk, decider.first))
            decider.pass_over(step.chunk)
            if isinstance(decision, Fresh):
                decider.first.apply(decision.trace, index)
        return found

    def pressed(self, text: str) -> tuple[list[str], int]:
        """Press with another text: which chunks ran, and how many were run again in silence."""
        self.page.write_text(text)
        replay = Sessions._replay
        again: list[int] = []

        def counted(sessions: Sessions, index: int, *more: object) -> bool:
            again.append(index)
            return replay(sessions, index, *more)  # type: ignore[arg-type]

        with mock.patch.object(Sessions, "_replay", counted):
            done = press(self.page)
        return [chunk.label for chunk in done.chunks if chunk.outcome == "ran"], len(again)

    def test_one_decision_for_each_chunk(self) -> None:
        found = self.decisions()
        self.assertIsInstance(found["tools"], Fresh)
        self.assertIsInstance(found["never"], LeftOut)
        (self.folder / "made.txt").write_text("2")
        self.page.write_text(PAGE.replace("print(root(16)", "print(root(25)"))
        found = self.decisions()
        self.assertEqual([label for label, one in found.items() if isinstance(one, Stale)], ["files", "use"])
        assert isinstance(found["files"], Stale) and isinstance(found["use"], Stale)
        self.assertIn("made.txt, which it writes", found["files"].why)
        self.assertIn("code or options", found["use"].why)

    def test_functions_come_back_without_running_anything_again(self) -> None:
        self.assertEqual(self.pressed(PAGE.replace("root(16), len(values)", "root(25)")), (["use"], 0))

    def test_what_only_running_gives_is_run_again_and_nothing_else(self) -> None:
        self.assertEqual(self.pressed(PAGE.replace("len(values)", "next(rest)")), (["use"], 1))

    def test_a_file_that_is_gone_is_made_again_for_who_comes_after(self) -> None:
        (self.folder / "made.txt").unlink()
        self.assertEqual(self.pressed(PAGE.replace("len(values)", "open('made.txt').read()"))[0], ["files", "use"])


if __name__ == "__main__":
    unittest.main()
