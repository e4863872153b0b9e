"""Where things come from across languages, inserted files, repetitions, editions and other sources than Markdown."""

from __future__ import annotations

import shutil
import textwrap
import unittest

from tests.support import FolderCase
from wornpage.lineage.finding import find
from wornpage.lineage.steps import Lineage
from wornpage.lineage.telling import Answer, answer_of
from wornpage.lineage.tracing import lineage_of
from wornpage.press import Order, Proof, proof_of


class Across(FolderCase):
    def traced(self, text: str, name: str = "page.md", **given: object) -> tuple[Proof, Lineage]:
        proof = proof_of(Order(self.write(name, text), name, given=given))
        return proof, lineage_of(proof.source, proof.settings, proof.record)

    def told(self, traced: tuple[Proof, Lineage], query: str) -> Answer:
        proof, lineage = traced
        return answer_of(find(query, proof.composed, lineage)[0], lineage)

    def labels(self, answer: Answer) -> list[str]:
        return [told.step.label for told in answer.steps if told.step.label]

    def files(self, answer: Answer) -> set[str]:
        return {source.name for told in answer.steps for source, _ in told.files}

    def test_files_that_one_chunk_writes_and_another_reads(self) -> None:
        self.write("raw.csv", "a\n1\n2\n")
        text = """
            ```bash run #shell
            sort -r raw.csv > sorted.csv
            ```

            ```python run #load
            rows = open("sorted.csv").read().split()
            ```

            There are {= len(rows)}.
            """
        answer = self.told(self.traced(text), "3")
        self.assertEqual((self.labels(answer), self.files(answer)), (["load", "shell"], {"raw.csv"}))
        (taken,) = answer.steps[1].takes
        self.assertEqual((taken.key, taken.names), ("shell", ("sorted.csv",)))

    def test_databases_within_the_page(self) -> None:
        text = """
            ```python run #load
            import pandas as pd
            books = pd.DataFrame({"branch": ["q", "m", "q"], "ph": [4.5, 6, 5]})
            ```

            ```sql run #query from=memory into=means
            select branch, avg(ph) as ph from books group by branch order by branch
            ```

            The first is {= means.ph[0]}.
            """
        answer = self.told(self.traced("---\ndatabases: {memory: memory}\n---\n" + textwrap.dedent(text)), "6")
        self.assertEqual(self.labels(answer), ["query", "load"])

    @unittest.skipUnless(shutil.which("Rscript"), "R is not installed")
    def test_values_from_one_language_to_the_next(self) -> None:
        text = """
            ```python run #load
            import pandas as pd
            books = pd.DataFrame({"ph": [4.5, 6.0, 5.5]})
            ```

            ```r run #fit uses=books
            highest <- max(books$ph)
            ```

            The highest is {r= highest}.
            """
        answer = self.told(self.traced(text), "6")
        self.assertEqual(self.labels(answer), ["fit", "load"])
        self.assertIn("R", {source.name for told in answer.steps for source in told.others})
        (taken,) = next(told for told in answer.steps if told.step.label == "fit").takes
        self.assertEqual([named.columns for _, named in taken.named], [("ph",)])

    def test_inserted_files_and_their_repetitions(self) -> None:
        self.write("part.md", "```python run #of show=nothing\nmine = [n for n in numbers if n > limit]\n```\n\nAbove {= limit}: {= len(mine)} of them.\n")  # fmt: skip
        text = "```python run #load\nnumbers = [1, 5, 9]\n```\n\n{insert part.md for limit in [0, 4]}\n"
        traced = self.traced(text)
        _, lineage = traced
        values = [step for step in lineage.steps.values() if step.code == "len(mine)"]
        self.assertEqual([step.value for step in values], [3, 2])
        self.assertEqual(len({step.key for step in values}), 2, "each repetition is a step of its own")
        writers = [flow.writer for step in values for flow in step.flows]
        self.assertEqual(len(set(writers)), 2, writers)
        self.assertEqual([step.span.file for step in values], ["part.md", "part.md"])

    def test_the_last_who_wrote_a_name_above_is_meant(self) -> None:
        text = """
            ```python run #one
            x = [1]
            ```

            First {= len(x) + 10}.

            ```python run #two
            x.append(2)
            ```

            Then {= len(x) + 20}.

            ```python run #three
            del x
            x = "abc"
            ```

            Last {= len(x) + 30}.
            """
        traced = self.traced(text)
        for query, labels in (("11", ["one"]), ("22", ["two", "one"]), ("33", ["three"])):
            with self.subTest(query):
                found = self.labels(self.told(traced, query))
                self.assertEqual(found[: len(labels)], labels)

    def test_a_source_in_latex_and_one_in_restructured_text(self) -> None:
        tex = "\\begin{document}\n\\begin{chunk}{python}[label=load]\nn = 40\n\\end{chunk}\nOf \\worn{n + 2}.\n\\end{document}\n"
        rst = ".. chunk:: python\n   :label: load\n\n   n = 40\n\nOf :worn:`n + 2`.\n"
        for name, text, place in (("page.tex", tex, "page.tex:5:4"), ("page.rst", rst, "page.rst:6:4")):
            answer = self.told(self.traced(text, name), "42")
            self.assertEqual((str(answer.target.span), self.labels(answer)), (place, ["load"]))

    def test_given_values_of_a_pressing_are_told(self) -> None:
        text = "---\ngiven: {branch: Quayside}\n---\n\n```python run #one\nname = given.branch.upper()\n```\n\n{= name} and {= given.branch}.\n"
        traced = self.traced(text, branch="Millpond")
        for query in ("MILLPOND", "Millpond"):
            answer = self.told(traced, query)
            self.assertIn(("given", "branch", "Millpond"), [(one.kind, one.name, one.value) for told in answer.steps for one in told.others])  # fmt: skip
