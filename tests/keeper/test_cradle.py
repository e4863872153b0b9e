"""Sessions that have their libraries imported already: the same pages as without, and used only where that is lawful."""

from __future__ import annotations

import os
import time
from pathlib import Path
from unittest.mock import patch

from tests.support import FolderCase
from wornpage.press import Order, Pressing, press
from wornpage.press.story import run_of
from wornpage.session import cradle
from wornpage.session.process import ProcessSession

TOP = """---
given: {least: 3}
---

```python run #load
import sys, os, warnings
import numpy as np
import pandas as pd
import matplotlib.pyplot as plt
frame = pd.DataFrame({"a": np.arange(6.0), "b": list("xyxyxy")})
```

```python run #set
plt.rcParams["lines.linewidth"] = 3
pd.set_option("display.precision", 2)
warnings.simplefilter("ignore", FutureWarning)
os.environ["MARLOW"] = "set"
table = {"rows": [1]}
alias = table["rows"]
def shifted(values):
    return values + given.least
```

```python run #mine
CODE
```

Of {= len(frame)}: {= shifted(np.float64(1)) as 1 decimal}.
"""
CODES = (
    "print(frame.groupby('b').a.mean() / 3, os.environ['MARLOW'], shifted(2))", "plt.figure(figsize=(2, 1))\nplt.plot(frame.a)",
    "print('scipy' in sys.modules, 'pandas' in sys.modules, plt.rcParams['lines.linewidth'])",
    "print(np.random.default_rng().integers(1000), np.random.rand())", "import scipy.stats\nprint(scipy.stats.norm.cdf(0.5))",
    "alias.append(2)\nprint(table)", "print(len(warnings.filters), pd.get_option('display.precision'))", "import statistics\nprint(statistics.mean([1, 2]), given.least)",
    "print(sorted(name for name in os.environ if name.startswith('WORN')), os.environ.get('OLDPWD'))", "raise ValueError(shifted(1))",
    "frame['c'] = frame.a * 2\nframe", "plt.close('all')\nfig, ax = plt.subplots()\nax.hist(frame.a)\nprint(len(plt.get_fignums()))",
)  # fmt: skip


class Cradles(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        run = Path(self.folder / "r")
        changed = patch.dict(os.environ, {"WORN_WARM": "yes", "XDG_RUNTIME_DIR": str(run)})
        changed.start()
        self.addCleanup(changed.stop)
        self.addCleanup(self._end_all)
        self.run, self.warm = run / "wornpage", 0

    def _end_all(self) -> None:
        for path in self.run.glob("*"):
            path.unlink()

    def press(self, text: str, least: int = 3, warm: bool = True) -> Pressing:
        page = self.write("page.md" if warm else "cold/page.md", text.replace("raise", "raise "))
        taken = cradle.warm_session

        def counted(*asked: object) -> ProcessSession | None:
            session = taken(*asked)  # type: ignore[arg-type]
            self.warm += session is not None
            return session

        with patch("wornpage.plan.standing.warm_session", counted), patch.dict(os.environ, {"WORN_WARM": "yes" if warm else "no"}):  # fmt: skip
            return press(page, ["html"], given={"least": least}, afresh=not warm)

    def wait(self) -> None:
        for _ in range(200):
            if list(self.run.glob("*.cradle")):
                return
            time.sleep(0.05)
        self.fail("there is no cradle")

    def test_pages_are_the_same_with_it_and_without(self) -> None:
        on_error = TOP.replace("#mine", "#mine on-error=show")
        self.press(on_error.replace("CODE", "print(0)"))
        self.press(on_error.replace("CODE", "print(1)"))
        self.wait()
        for number, code in enumerate(CODES):
            text, least = on_error.replace("CODE", code), 3 + number % 3
            with patch.dict(os.environ, {"OLDPWD": f"/elsewhere/{number}"}):  # as in another terminal
                self.press(text, least)
                self.press(text, least, warm=False)
            made, wanted = ((self.folder / name).read_text() for name in ("page.html", "cold/page.html"))
            self.assertEqual(made, wanted, code)
        self.assertGreaterEqual(self.warm, len(CODES) - 2)

    def test_there_are_few_of_them_and_none_for_pages_of_many(self) -> None:
        self.run.mkdir(parents=True, mode=0o700)
        for number in range(6):
            path = self.run / f"{number}.cradle"
            path.touch()
            os.utime(path, (number, number))
        cradle._make_room()
        self.assertEqual(sorted(path.name for path in self.run.iterdir()), [f"{n}.cradle" for n in range(6 - cradle.MOST + 1, 6)])  # fmt: skip
        wishes: list[cradle.Wish] = []
        self.write("volume.yaml", "title: Rooms\npages: [page.md]\n")
        page = self.write("page.md", TOP.replace("CODE", "print(0)"))
        with patch("wornpage.plan.standing.wish_for", wishes.append):
            for order, count in ((Order(page, "page.md", volume=page.with_name("volume.yaml")), 0), (Order(page, "page.md", together="a"), 0), (Order(page, "page.md"), 1)):  # fmt: skip
                self.write(
                    "page.md", TOP.replace("CODE", f"print({len(wishes)}, '{order.together}', '{order.volume}')")
                )
                run_of(order)
                self.assertEqual(len(wishes), count)

    def test_it_is_left_alone_where_it_would_not_be_lawful(self) -> None:
        self.press(TOP.replace("CODE", "print(0)"))
        self.press(TOP.replace("CODE", "print(1)"))
        self.wait()
        text = TOP.replace("import pandas as pd", "import pandas as pd\nprint(0)")
        self.press(text.replace("CODE", "print(1)"))
        self.assertEqual(self.warm, 0, "the chunk that imports is above what has been imported")
        with patch.dict(os.environ, {"MARLOW_TOWN": "x"}):
            self.press(TOP.replace("CODE", "print(2)"))
        self.assertEqual(self.warm, 0, "the environment is another")
        self.press(TOP.replace("CODE", "print(3)"))
        self.assertEqual(self.warm, 1)
        self.run.chmod(0o755)
        self.press(TOP.replace("CODE", "print(4)"))
        self.assertEqual(self.warm, 1, "others could look into the folder")
        self.run.chmod(0o700)
        for path in self.run.glob("*.cradle"):
            path.unlink()
            path.touch()
        pressing = self.press(TOP.replace("CODE", "print(5)"))
        self.assertEqual((self.warm, pressing.chunks[-1].outcome), (1, "ran"), "nobody is at the socket")
