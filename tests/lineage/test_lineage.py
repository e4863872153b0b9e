"""Where things come from, and what hangs on them, on a page whose every flow is known."""

from __future__ import annotations

import json
import os
from unittest.mock import patch

from prov.model import ProvDocument

from tests.support import FolderCase, worn
from wornpage.lineage.finding import Target, find
from wornpage.lineage.hanging import Hanging, hanging_on
from wornpage.lineage.naming import lines_binding, named_in, read_into
from wornpage.lineage.prov import prov_of
from wornpage.lineage.steps import Lineage
from wornpage.lineage.telling import Answer, answer_of
from wornpage.lineage.tracing import lineage_of
from wornpage.press import Order, Proof, proof_of

DATA = "book,branch,ph,loans\nQ1,Quayside,4.5,12\nQ2,Quayside,7.25,3\nM1,Millpond,5.5,30\n"
PAGE = """
    ---
    title: "Of {= len(books)} books"
    given: {least: 5}
    ---

    # Books and rooms {#first}

    ```python run #load
    import os
    import pandas as pd
    books = pd.read_csv("books.csv")
    limit = os.environ.get("MARLOW_LIMIT", "6")
    ```

    ```python run #acid
    from near import halved
    acid = books[books.ph < given.least]
    share = len(acid) / len(books)
    open("acid.txt", "w").write(str(halved(len(acid))))
    ```

    ```python run #drawn
    luck = page.rng().integers(0, 10)
    ```

    Of the books {= share as percent} are acid, and {= luck * 0 + 0.333 as percent} were drawn; {= open("acid.txt").read()}. A hand wrote 33.3%.

    ```python run #means
    page.table(books.groupby("branch").ph.mean().to_frame("Mean").assign(Note=limit), caption="Means of {= len(books)} books.", label="costs")
    ```

    | by hand | x |
    |---------|---|
    | one     | {= books.loans.max()} |

    Caption: Loans.
    Label: loans
    """


class Known(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("books.csv", DATA)
        self.write("near.py", "def halved(x):\n    return x / 2\n")
        with patch.dict(os.environ, {"MARLOW_LIMIT": "7"}):
            self.proof: Proof = proof_of(Order(self.write("page.md", PAGE), "page.md"))
        self.lineage: Lineage = lineage_of(self.proof.source, self.proof.settings, self.proof.record)

    def found(self, query: str) -> list[Target]:
        return find(query, self.proof.composed, self.lineage)

    def told(self, query: str) -> Answer:
        return answer_of(self.found(query)[0], self.lineage)

    def steps(self, query: str) -> list[str]:
        return [told.step.label or told.step.code for told in self.told(query).steps]

    def hanging(self, what: str) -> Hanging:
        return hanging_on(what, self.proof.composed, self.lineage)


class Origins(Known):
    def test_a_value_leads_back_to_its_data(self) -> None:
        answer = self.told("33.3%")
        share, acid, load = answer.steps
        self.assertEqual((share.step.code, share.step.value), ("share", 1 / 3))
        self.assertEqual(
            [(taken.key, taken.names, taken.lines) for taken in share.takes], [("acid", ("share",), (18,))]
        )
        self.assertEqual(acid.takes[0].named[0][1].rows, ("books.ph < given.least",))
        self.assertIn(("given", "least", "5"), [(one.kind, one.name, one.value) for one in acid.others])
        self.assertIn("near.py", [one.name for one in acid.others if one.kind == "module"])
        (file, named) = load.files[0]
        self.assertEqual((file.name, len(file.value), named.columns), ("books.csv", 32, ("ph",)))
        self.assertIn(("environment", "MARLOW_LIMIT", "set"), [(one.kind, one.name, one.value) for one in load.others])
        self.assertTrue({"pandas", "numpy"} <= {one.name for one in load.others if one.kind == "package"})
        self.assertGreater(load.step.at, 1e9)

    def test_what_is_meant(self) -> None:
        for query, kind, said in (
            ("33.3 %", "words", "33.3%"), ("#costs", "table", "Means of 3 books."), ("costs", "table", "Means"), ("page.html#costs", "table", "Means"), ("costs[Quayside, Mean]", "cell", "5.875"),
            ("costs[mean, 'Millpond']", "cell", "5.5"), ("costs[2, 2]", "cell", "5.875"), ("Means", "table", "Means"), ("acid", "chunk", ""), ("first", "heading", "Books and rooms"), ("loans[one, x]", "cell", "30"), ("30", "value", "30"), ("page.md:26", "value", "33.3%"),
            ("26:100", "value", "0.5"), ("16", "chunk", ""), ("A hand wrote", "words", "Of the books"),
        ):  # fmt: skip
            with self.subTest(query):
                if query == "33.3 %":
                    self.assertRaises(LookupError, self.found, query)
                    continue
                one = self.found(query)[0]
                self.assertEqual((one.kind, one.said[: len(said)]), (kind, said))
        self.assertEqual([one.said for one in self.found("33.3%")], ["33.3%", "33.3%"])
        self.assertEqual(self.found("costs[Quayside, Mean]")[0].exact, "5.875")
        self.assertEqual(self.told("A hand wrote").steps, ())
        for query, hint in (("cost", "costs"), ("costs[Quai, Mean]", "Quay|rows"), ("costs[Quayside, Mea]", "Mean"), ("costs[x]", "row and a column"), ("tost[a, b]", "costs|^$")):  # fmt: skip
            with self.subTest(query), self.assertRaisesRegex(LookupError, hint):
                self.found(query)

    def test_cells_under_heads_over_heads(self) -> None:
        text = """
            ```python run #a show=output
            import pandas as pd
            frame = pd.DataFrame([[1, 2, 3, 4]], index=["Quayside"], columns=pd.MultiIndex.from_product([["paper", "film"], ["Mean", "n"]]))
            page.table(frame.rename(columns={"n": "count"}, level=1), caption="C.", label="both")
            ```
            """
        proof = proof_of(Order(self.write("heads.md", text), "heads.md"))
        lineage = lineage_of(proof.source, proof.settings, proof.record)
        for query, said in (("both[Quayside, film Mean]", "3"), ("both[Quayside, paper count]", "2"), ("both[1, 5]", "4")):  # fmt: skip
            self.assertEqual(find(query, proof.composed, lineage)[0].said, said)
        for query in ("both[Quayside, Mean]", "both[Quayside, flim Mean]"):
            with self.subTest(query), self.assertRaisesRegex(LookupError, "film Mean"):
                find(query, proof.composed, lineage)

    def test_seeds_files_between_chunks_and_titles(self) -> None:
        luck = self.told("26:50").steps
        self.assertEqual([told.step.label for told in luck[1:]], ["drawn"])
        self.assertIn("seed", [one.kind for one in luck[1].others])
        self.assertEqual(self.steps("0.5"), ['open("acid.txt").read()', "acid", "load"])
        self.assertEqual([one.span.line for one in self.found("3")][:1], [2])

    def test_the_interchange_format_is_read_by_others(self) -> None:
        document = ProvDocument.deserialize(content=json.dumps(prov_of([self.told("33.3%"), self.told("costs")])))
        said = document.get_provn()
        for piece in ('prov:value="33.3%"', "used(worn:run/acid, worn:given/least", "wasGeneratedBy(worn:name/acid/share, worn:run/acid", 'worn:columns="ph"', "wasDerivedFrom(worn:shown-1, worn:name/acid/share"):  # fmt: skip
            self.assertIn(piece, said)


class HangingOn(Known):
    def test_what_hangs_on_files_columns_chunks_packages_and_givens(self) -> None:
        for what, steps, shown in (
            ("given.least", ["acid", "share", 'open("acid.txt").read()'], ["33.3%", "0.5"]),
            ("near.py", ["acid", "share", 'open("acid.txt").read()'], ["33.3%", "0.5"]),
            ("drawn", ["drawn", "luck * 0 + 0.333"], ["33.3%"]),
            ("MARLOW_LIMIT", ["load", "acid", "drawn"], None),
        ):
            with self.subTest(what):
                found = self.hanging(what)
                self.assertEqual(
                    [step.label or step.code for step in found.steps][: len(steps)], steps
                ) if what != "MARLOW_LIMIT" else None
                if shown is not None:
                    self.assertEqual([one.said for one in found.shown if one.kind == "value"], shown)
        whole = {step.label or step.code for step in self.hanging("books.csv").steps}
        self.assertTrue({"load", "acid", "means", "share", "books.loans.max()", "len(books)"} <= whole)
        self.assertNotIn("drawn", whole)
        named = self.hanging("books.csv[loans]")
        self.assertEqual([self.lineage.steps[key].code for key in named.named], ["books.loans.max()"])
        for what, hint in (("book.csv", "books.csv"), ("books.csv[lons]", "loans"), ("nothing", "")):
            with self.subTest(what), self.assertRaisesRegex(LookupError, hint):
                self.hanging(what)


class Named(FolderCase):
    def test_what_code_names_for_certain(self) -> None:
        parts = {"f": ("a", "b c", "year"), "g": ("a",)}
        for code, columns, rows in (
            ("f.a + f['b c']", ("a", "b c"), ()), ("f[['a', 'year']]", ("a", "year"), ()), ("f.other + h.a", (), ()), ("f[f.year > 1900].a", ("a", "year"), ("f.year > 1900",)),
            ("f.loc[f.a.isin(x), 'year']", ("a", "year"), ("f.a.isin(x)",)), ("f.groupby('year').a.mean()", ("a", "year"), ()), ("f.query('a > 3').head(2)", (), ("'a > 3'", "2")), ("f[name]", (), ()), ("f[~f.a]", ("a",), ("~f.a",)), ("1 +", (), ()),
        ):  # fmt: skip
            with self.subTest(code):
                named = named_in(code, parts).get("f")
                self.assertEqual((set(named.columns), set(named.rows)) if named else (set(), set()), (set(columns), set(rows)))  # fmt: skip
        self.assertEqual(lines_binding("import a\nx = 1\nx['k'] = 2\ndef f():\n    x = 9\nf = 3", "f"), [3, 5])
        self.assertEqual(read_into("d = pd.read_csv('a.csv', usecols=['x', 'y'])", {"a.csv"}), {"a.csv": ("d", ("x", "y"))})  # fmt: skip

    def test_the_program_tells_it(self) -> None:
        self.write("books.csv", DATA)
        self.write("near.py", "def halved(x):\n    return x / 2\n")
        self.write("page.md", PAGE)
        told = worn("origin", "page.md", "page.md:26:15", folder=self.folder)
        for piece in ("33.3%", "{= share}", "0.3333333333333333", "share  ←  ● acid", "page.md:18", "given least = 5", "▤ books.csv", "columns ph", "libraries"):  # fmt: skip
            self.assertIn(piece, told.stdout)
        missing = worn("origin", "page.md", "cosst", folder=self.folder)
        self.assertEqual(
            (missing.returncode, "costs" in missing.stderr, "Traceback" in missing.stderr), (2, True, False)
        )
        drawn = worn("origin", "page.md", "costs", "--svg", "o.svg", folder=self.folder)
        self.assertIn(b"books.csv", (self.folder / "o.svg").read_bytes(), drawn.stderr)
        self.assertEqual(worn("origin", "page.md", "costs", "--svg", "page.md", folder=self.folder).returncode, 2)
        listed = json.loads(worn("status", "page.md", "--of", "books.csv[loans]", "--json", folder=self.folder).stdout)
        self.assertEqual([one["said"] for one in listed["shown"] if one["names"]], ["30"])
