"""Scripts and notebooks become pages whose code is what it was; a page's script runs and becomes the page again."""

from __future__ import annotations

import ast
import base64
import json
import subprocess
import sys
import tempfile
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase, worn
from wornpage.exchange import page_again, page_of_notebook, page_of_script, script_of
from wornpage.press import prepare
from wornpage.source import read_page
from wornpage.tree.problem import PageError

_LINES = st.lists(
    st.sampled_from(["x = 1", "", "# ```", "# ````", "    # inside", "# ~~~", "'''", "text = '{= x}'", "if x:", "    x = 2", "#", "# ```python run", "a_b = '*'"]),
    max_size=6,
)  # fmt: skip
_PROSE = st.lists(
    st.sampled_from(["Words and *more*.", "", "# A heading", "- an item", "> quoted", "#", "    code"]), max_size=4
)


def _page_of(text: str) -> tuple[list[str], str]:
    """The code of a page's chunks, and the script made of it."""
    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "page.md"
        path.write_text(text, encoding="utf-8")
        page = read_page(path, "page.md")
        settings, _, _ = prepare(page)
        return [chunk.code for chunk in page.chunks], script_of(page, settings)


class Scripts(FolderCase):
    @given(st.lists(st.tuples(_PROSE, _LINES), min_size=1, max_size=4))
    def test_a_page_comes_back_from_its_script_with_the_code_it_had(
        self, parts: list[tuple[list[str], list[str]]]
    ) -> None:
        pieces = ["\n".join([*prose, "", "`````python run", *code, "`````", ""]) for prose, code in parts]
        code, script = _page_of("\n".join(pieces))
        self.assertEqual(_page_of(page_again(script))[0], code)

    def test_the_script_runs_and_the_page_comes_back_as_it_was(self) -> None:
        text = """\
---
given: {n: 3, day: 2026-03-01}
---

# Start

- A chunk in a list:

  ```python run #in-list
  total = given.n * 2

  if total:
      page.table({"a": [total]})
  ```

```python run on-error=show
1 / 0
```

```python run
print(total, given.day.year)
```
"""
        page = self.write("page.md", text)
        done = worn("code", "page.md", "--out", "page.py", folder=self.folder)
        self.assertEqual(done.returncode, 0, done.stderr)
        ran = subprocess.run([sys.executable, "page.py"], cwd=self.folder, capture_output=True, text=True, check=False)
        self.assertIn("6 2026", ran.stdout, ran.stderr)
        page.rename(self.folder / "old.md")
        self.assertEqual(worn("import", "page.py", folder=self.folder).returncode, 0)
        self.assertEqual(page.read_text(), text)
        self.assertEqual(worn("import", "page.py", folder=self.folder).returncode, 2, "nothing is written over")

    def test_code_added_to_the_script_becomes_a_chunk(self) -> None:
        _, script = _page_of("Words.\n\n```python run\nx = 1\n```\n")
        page = page_again(script + "\ny = 2\n\nz = 3\n")
        self.assertEqual(_page_of(page)[0], ["x = 1\n", "y = 2\n\nz = 3\n"])

    def test_a_plain_script_becomes_prose_and_chunks(self) -> None:
        script = '"""How paper wears.\n\nIt costs 5 to 9 $ each.\n"""\nimport math\n\n# ---- Load ----\n\nx = math.pi\n# near it\ny = x\n\n\ndef half(z):\n    """Half.\n\n\n    # no prose\n    """\n    return z / 2\n\n# Words with a_b and *stars*,\n# on two lines.\n\nprint(half(y))\n'
        text = page_of_script(script, "study.py", "Study")
        code, _ = _page_of(text)
        whole = ast.dump(ast.Module(ast.parse(script).body[1:], []))
        self.assertEqual(ast.dump(ast.parse("".join(code))), whole)
        self.assertIn('title: "How paper wears"', text)
        self.assertIn("\n# Load\n", text)
        self.assertIn("# near it", "".join(code))
        self.assertIn("```python run #set-up\nimport math\n```", text)
        made = self.html(text)
        self.assertIn("Words with a_b and *stars*", made)
        self.assertIn("5 to 9 $ each", made)

    def test_marks_between_cells(self) -> None:
        text = page_of_script(
            "# %% Set up\nimport math\n# %% [markdown]\n# ## *Next*\n# %%\nmath.pi\n", "cells.py", "Cells"
        )
        self.assertEqual(_page_of(text)[0], ["import math\n", "math.pi\n"])
        self.assertIn("\n# Set up\n", text)
        self.assertIn("\n## *Next*\n", text)

    def test_comments_part_cells_too(self) -> None:
        script = "# A study of paper\n#\n# It begins.\n\nx = 1\n\n# Alone.\n\ny = 2\n\n# %% Plot\nz = 3\n\n# In the cell.\n\nw = 4\n"
        text = page_of_script(script, "cells.py", "Cells")
        self.assertEqual(_page_of(text)[0], ["x = 1\n", "y = 2\n", "z = 3\n", "w = 4\n"])
        self.assertIn('title: "A study of paper"', text)
        for words in ("\nIt begins.\n", "\nAlone.\n", "\n# Plot\n", "\nIn the cell.\n"):
            self.assertIn(words, text)

    def test_what_is_no_script_is_told_with_its_place(self) -> None:
        self.write("nulls.py", "x = 1\ny = '\0'\n")
        self.assertTrue(
            worn("import", "nulls.py", folder=self.folder).stderr.startswith("nulls.py:2:1: this is no Python")
        )
        self.write("bad.py", "x = 1\ny = (\n")
        done = worn("import", "bad.py", folder=self.folder)
        self.assertEqual((done.returncode, done.stderr.startswith("bad.py:2:5")), (1, True), done.stderr)


class Notebooks(FolderCase):
    def test_cells_become_prose_and_chunks_and_what_they_showed_is_left(self) -> None:
        picture = base64.b64encode(b"\x89PNG").decode()
        cells = [
            {"cell_type": "markdown", "source": ["# Damp\n", "\n", "See {= it}.\n", "![p](attachment:a b.png)"], "attachments": {"a b.png": {"image/png": picture}}},
            {"cell_type": "code", "source": "%matplotlib inline\nimport math\n", "outputs": [{"text": "old"}]},
            {"cell_type": "code", "source": ["x = '''\n", "% text\n", "'''"]},
            {"cell_type": "code", "source": "%%bash\nls"},
            {"cell_type": "raw", "source": "raw"},
        ]  # fmt: skip
        data = {"metadata": {"kernelspec": {"language": "python"}}, "cells": cells}
        self.write("notes.ipynb", json.dumps(data))
        done = worn("import", "notes.ipynb", folder=self.folder)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("cell 2: `%matplotlib inline`", done.stderr)
        text = (self.folder / "notes.md").read_text()
        self.assertEqual(_page_of(text)[0], ["# %matplotlib inline\nimport math\n", "x = '''\n% text\n'''\n"])
        self.assertIn('title: "Damp"', text)
        self.assertIn("\\{= it}", text)
        self.assertIn("```bash\nls\n```", text)
        self.assertNotIn("old", text)
        self.assertEqual([path.read_bytes() for path in (self.folder / "notes-pictures").iterdir()], [b"\x89PNG"])

    def test_pictures_stay_in_their_folder_whatever_they_are_called(self) -> None:
        drawing = ["<svg xmlns='http://www.w3.org/2000/svg'>", "</svg>"]
        kinds = {"image/../../evil": "AAAA", "image//etc/x": "AAAA", "text": "AAAA", "image/svg+xml": drawing}
        cell = {"cell_type": "markdown", "source": "![p](attachment:../../up.x)", "attachments": {"../../up.x": kinds}}
        made = page_of_notebook(json.dumps({"cells": [cell]}), "n.ipynb", "N", "p")
        self.assertEqual(made.pictures, {"1--up.svg": "".join(drawing).encode()})
        self.assertIn("(p/1--up.svg)", made.text)
        deep = {"cell_type": "code", "source": "x = " + "-" * 100_000 + "1"}
        self.assertIn("x = ---", page_of_notebook(json.dumps({"cells": [deep]}), "n.ipynb", "N", "p").text)

    def test_an_older_form_and_what_is_none(self) -> None:
        older = {
            "worksheets": [
                {"cells": [{"cell_type": "heading", "level": 2, "source": "Old"}, {"cell_type": "code", "input": "1"}]}
            ]
        }
        self.assertIn("## Old\n\n```python run\n1\n```", page_of_notebook(json.dumps(older), "n.ipynb", "N", "p").text)
        for text in ("{", "[]", '{"cells": [{}]}', '{"cells": 3}'):
            with self.assertRaises(PageError):
                page_of_notebook(text, "n.ipynb", "N", "p")

    def made(self, *cells: object, **about: object) -> tuple[str, list[str]]:
        """Page and notes of a notebook with these cells."""
        found = page_of_notebook(json.dumps({"cells": cells, **about}), "n.ipynb", "N", "p")
        return found.text, found.notes

    def test_fields_that_say_nothing(self) -> None:
        cells = (
            {"cell_type": "markdown", "source": None, "attachments": None, "metadata": None},
            {"cell_type": "code", "source": ["x = 1"], "outputs": None, "execution_count": None},
            {"cell_type": "code"},
            {"cell_type": "markdown", "source": "Words.\r\nMore."},
        )
        for about in ({}, {"metadata": None}, {"metadata": {"kernelspec": None, "language_info": None}}):
            text, notes = self.made(*cells, **about)
            self.assertEqual((_page_of(text)[0], notes), (["x = 1\n"], []))
            self.assertIn("Words.\nMore.", text)
            self.assertNotIn("None", text)

    def test_lines_for_the_notebooks_own_program(self) -> None:
        text, notes = self.made(
            {"cell_type": "code", "source": "%%time\nx = 1"}, {"cell_type": "code", "source": "!ls -l\nfor i in x:\n    %time f(i)\nlen?\nx = 5 % 3"},
            {"cell_type": "code", "source": "display(x)"}, {"cell_type": "code", "source": "%%html\n<b>x</b>"}, {"cell_type": "code", "source": "%%"},
        )  # fmt: skip
        chunks = _page_of(text)[0]
        self.assertEqual(
            chunks, ["x = 1\n", "# !ls -l\nfor i in x:\n    # %time f(i)\n# len?\nx = 5 % 3\n", "display(x)\n"]
        )
        self.assertIn("```html\n<b>x</b>\n```", text)
        self.assertEqual(
            [note.split(":")[1].strip() for note in notes],
            ["cell 1", "cell 2", "cell 2", "cell 2", "cell 3", "cell 4", "cell 5"],
        )

    def test_notebooks_of_another_language_are_shown_and_not_run(self) -> None:
        text, _ = self.made({"cell_type": "code", "source": "x <- 1"}, metadata={"language_info": {"name": "R"}})
        self.assertIn("```r\nx <- 1\n```", text)
