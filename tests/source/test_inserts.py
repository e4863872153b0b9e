"""Files within a page: names given to them, repetitions, what must run, and what is told of them when they are at fault."""

from __future__ import annotations

import re
from pathlib import Path

from tests.support import FolderCase, worn
from wornpage.press import press
from wornpage.tree.problem import PageError

ROOM = """
    # {= room["name"]} {#room}

    It holds {= room["n"]} chairs, as {see chairs} has it.

    ```python run #chairs
    pd.DataFrame({"Chairs": [room["n"]]})
    ```
    Caption: Chairs of {= room["name"]}.
"""
PAGE = """
    ---
    title: Rooms
    ---

    See {see chairs.quayside} and {see room.mill-pond}.

    ```python run #load show=nothing
    import pandas as pd
    rooms = [{"name": "Quayside", "n": 3}, {"name": "Mill Pond", "n": 5}]
    ```

    # Rooms

    {insert parts/room.md deeper=1 for room in rooms}
"""


class InsertedFiles(FolderCase):
    def pressed(self) -> dict[str, str]:
        """What became of each chunk of page.md."""
        return {chunk.label: str(chunk.outcome) for chunk in press(self.folder / "page.md").chunks}

    def test_a_file_is_repeated_for_what_a_chunk_has_found(self) -> None:
        self.write("parts/room.md", ROOM)
        made = self.html(PAGE)
        self.assertEqual(re.findall(r"(?s)<h3[^>]*>.*?</h3>", made)[1].count("Mill Pond"), 1)
        self.assertIn("It holds 5 chairs, as", made)
        for label in ("chairs.quayside", "chairs.mill-pond", "room.mill-pond"):
            self.assertIn(f'id="{label}"', made)
            self.assertIn(f'href="#{label}"', made)
        self.assertEqual(re.findall(r"Table\s(\d)", re.sub(r"<[^>]+>", "", made))[:1], ["1"])
        self.assertIn("Chairs of Mill Pond.", made)

    def test_a_condition_chooses_among_items(self) -> None:
        self.write("parts/room.md", ROOM)
        made = self.html(
            PAGE.replace("for room in rooms}", 'for room in rooms if room["n"] > 3}').replace(
                "{see chairs.quayside} and ", ""
            )
        )
        self.assertEqual(("Chairs of Mill Pond." in made, "Chairs of Quayside." in made), (True, False))

    def test_each_repetition_is_fresh_or_stale_by_itself(self) -> None:
        room = self.write("parts/room.md", ROOM)
        page = self.write("page.md", PAGE)
        self.assertEqual(set(self.pressed().values()), {"ran"})
        room.write_text(room.read_text().replace("It holds", "There are"))
        self.assertEqual(set(self.pressed().values()), {"reused"})
        page.write_text(page.read_text().replace('"n": 5', '"n": 6'))
        again = self.pressed()
        self.assertEqual((again["chairs.quayside"], again["chairs.mill-pond"]), ("reused", "ran"))
        page.write_text(page.read_text().replace("rooms = [", 'rooms = [{"name": "Attic", "n": 1}, '))
        grown = self.pressed()
        self.assertEqual((grown["chairs.attic"], grown["chairs.quayside"]), ("ran", "reused"))

    def test_items_that_look_alike_are_told_apart(self) -> None:
        self.write("part.md", "```python run #own\nx\n```\n")
        page = "```python run\nxs = ['a b', 'a-b', 'a b']\n```\n\n{insert part.md for x in xs}\n"
        press(self.write("page.md", page))
        labels = [label for label in self.pressed() if label.startswith("own.")]
        self.assertEqual(len(set(labels)), 3)

    def test_names_are_given_checked_and_have_values_otherwise(self) -> None:
        self.write(
            "word.md",
            """
            ---
            given:
              word: {required: yes, one-of: [mill, quay]}
              times: 2
            ---

            {= word * times}
            """,
        )
        self.assertIn("millmill", self.html('{insert word.md word="mill"}\n'))
        self.assertIn("quayquayquay", self.html("# A\n\n{insert word.md word='quay' times=(1 + 2)}\n"))
        for mark, said in (
            ('{insert word.md wort="mill"}', "'word'"),
            ("{insert word.md}", "word"),
            ('{insert word.md word="quai"}', "'quay'"),
        ):
            problem = self.faults(f"# A\n\n{mark}\n")[0]
            self.assertEqual(problem.span.line, 3)
            self.assertIn(said, str(problem))

    def test_files_in_files(self) -> None:
        self.write("parts/outer.md", "# Part {= x}\n\n{insert inner.md for y in range(x)}\n")
        self.write("parts/inner.md", "```python run #sum show=output\nprint('sum', x + y)\n```\n")
        made = self.html("```python run\nxs = [1, 2]\n```\n\n{insert parts/outer.md for x in xs}\n")
        self.assertEqual(re.findall(r"sum (\d)", made), ["1", "2", "3"])

    def test_a_file_chosen_by_a_value(self) -> None:
        self.write("quay.md", "By the *water*.\n")
        self.write("mill.md", "By the *wheel*.\n")
        made = self.html("```python run\nnames = ['quay', 'mill']\n```\n\n{insert {name}.md for name in names}\n")
        self.assertLess(made.index("water"), made.index("wheel"))
        faults = self.faults("```python run\nnames = ['quay', 'mil']\n```\n\n{insert {name}.md for name in names}\n")
        self.assertIn("mill.md", str(faults[0]))

    def test_code_of_a_file_is_shown_or_run(self) -> None:
        self.write(
            "calc.py",
            "import math\n\n# part: double\ndef double(x):\n    return 2 * x\n# part: rest\nprint('never')\n",
        )
        text = '{insert code calc.py part="double" run #twice}\n\n```python run show=output\nprint(double(21))\n```\n'
        try:
            made = self.html(text)
        except PageError as error:
            self.fail(str(error))
        self.assertIn("42", made)
        self.assertNotIn("never", made)
        shown = re.sub(r"<[^>]+>", "", self.html("{insert code calc.py}\n"))
        self.assertIn("print('never')", shown)


class InsertsAtFault(FolderCase):
    def test_what_cannot_be_is_told_where_it_stands(self) -> None:
        self.write("a.md", "{insert b.md}\n")
        self.write("b.md", "Words.\n\n{insert a.md}\n")
        self.write("room.md", ROOM)
        for mark, said in (
            ("{insert a.md}", "a.md"),
            ("{insert romm.md}", "'room.md'"),
            ("{insert ../outside/other.md}", "no such file"),
            ("{insert code calc.py}", "calc.py"),
        ):
            with self.subTest(mark):
                problem = self.faults(f"# A\n\n{mark}\n")[0]
                self.assertIn(said, str(problem))
        self.assertEqual(self.fault_places("# A\n\n{insert romm.md}\n"), [(3, 1)])

    def test_a_link_out_of_the_project_is_not_followed(self) -> None:
        outside = Path(self.folder.parent) / f"{self.folder.name}-outside.md"
        outside.write_text("secret\n")
        self.addCleanup(outside.unlink)
        (self.folder / "inside.md").symlink_to(outside)
        self.assertIn("project", str(self.faults("{insert inside.md}\n")[0]))
        self.write("page.md", f"---\ninsert-from: [{outside.parent}]\n---\n\n{{insert inside.md}}\n")
        press(self.folder / "page.md")

    def test_a_failing_chunk_names_the_files_line_and_the_repetition(self) -> None:
        self.write("part.md", "Words.\n\n```python run #calc\nn = len(r)\n1 / (n - 4)\n```\n")
        self.write("page.md", "```python run\nrs = ['attic', 'mill']\n```\n\n{insert part.md for r in rs}\n")
        done = worn("press", "page.md", folder=self.folder)
        self.assertEqual(done.returncode, 1)
        self.assertIn("part.md:5", done.stderr)
        self.assertIn("mill", done.stderr)
        self.assertIn("page.md:5", done.stderr)
        self.assertNotIn("wornpage/", done.stderr)
        self.assertIn("calc.attic", done.stderr)

    def test_something_that_is_no_list(self) -> None:
        self.write("part.md", "Words.\n")
        problem = self.faults("```python run\nn = 3\n```\n\n{insert part.md for r in n}\n")[0]
        self.assertEqual(problem.span.line, 5)
