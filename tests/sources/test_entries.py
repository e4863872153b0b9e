"""Bibliographies: BibTeX and CSL-JSON, names, LaTeX, and what is wrong with them."""

import json
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase
from wornpage.sources import Library, read_library
from wornpage.sources.adding import as_bibtex
from wornpage.sources.bibtex import date, from_bibtex, names
from wornpage.sources.care import faults, found, told
from wornpage.sources.latex_text import decoded, plain
from wornpage.tree.problem import Severity
from wornpage.tree.span import Span

HERE = Span("p.md", 3, 15)


def entry(text: str) -> dict[str, Any]:
    """The data of the one entry in a text."""
    (made,) = from_bibtex(text)["entries"]
    data: dict[str, Any] = made[2]
    return data


class Latex(unittest.TestCase):
    """LaTeX as bibliographies hold it."""

    def test_accents_signs_and_looks(self) -> None:
        cases = {
            r'M{\"u}ller': "Müller", r"\'{E}mond and \'Elan": "Émond and Élan", r"\c{c}a \v s \H{o} \aa \ss{} \o": "ça š ő åß ø",
            r"A \& B -- 50\,\%": "A &amp; B – 50\u2009%", r"\emph{in vitro} {\em too}": "<i>in vitro</i> <i>too</i>",
            "The {DNA} of {Bo}oks": 'The <span class="nocase">DNA</span> of <span class="nocase">Bo</span>oks',
            r"$x^2$ and H\textsubscript{2}O": "x<sup>2</sup> and H<sub>2</sub>O", "``quoted'' ~ a": "“quoted” \u00a0 a",
            r"{\'E}mile": "Émile", "a < b": "a &lt; b",
        }  # fmt: skip
        for latex, text in cases.items():
            with self.subTest(latex):
                self.assertEqual(decoded(latex), text)
        self.assertEqual(plain(r"\emph{A} \& {B}"), "A & B")

    @given(st.text(alphabet="ab{}\\$^~-'`\" &<é", max_size=30))
    def test_nothing_breaks_it_and_no_tag_of_the_text_gets_through(self, text: str) -> None:
        self.assertNotRegex(decoded(text), r"<(?!/?(?:i|b|sup|sub|sc|span)\b)")


class Names(unittest.TestCase):
    """Names in BibTeX's three forms."""

    def test_particles_suffixes_and_bodies(self) -> None:
        cases = {
            "van der Berg, Jonne": {"family": "Berg", "non-dropping-particle": "van der", "given": "Jonne"},
            "Ludwig van Beethoven": {"family": "Beethoven", "non-dropping-particle": "van", "given": "Ludwig"},
            "de la Cruz, Jr., Ana Maria": {"family": "Cruz", "non-dropping-particle": "de la", "suffix": "Jr.", "given": "Ana Maria"},
            "{Marlow Street Library}": {"literal": "Marlow Street Library"},
            "Ada Smith": {"family": "Smith", "given": "Ada"},
            "Smith": {"family": "Smith"},
            r"{\'E}mile Zola": {"family": "Zola", "given": "Émile"},
        }  # fmt: skip
        for text, expected in cases.items():
            with self.subTest(text):
                self.assertEqual(names(text), [expected])
        self.assertEqual(
            names("A, B and {Salt and Pepper} and others")[1:], [{"literal": "Salt and Pepper"}, {"others": True}]
        )

    def test_dates_and_ranges(self) -> None:
        self.assertEqual(date("2026-03-01"), {"date-parts": [[2026, 3, 1]]})
        self.assertEqual(date("2019/2021~"), {"date-parts": [[2019], [2021]], "circa": True})
        self.assertEqual(date("spring"), {"literal": "spring"})


class Files(FolderCase):
    """Whole files, good and bad."""

    def library(self, **texts: str | bytes) -> Library:
        for name, text in texts.items():
            self.write(name.replace("_", "."), text)
        return read_library([(name.replace("_", "."), HERE) for name in texts], self.folder)

    def test_types_keep_all_their_fields(self) -> None:
        thesis = entry(
            "@phdthesis{a, author={X, Y}, title={T}, school={S}, year=2014, url={https://u.example}, urldate={2026-02-11}}"
        )
        self.assertEqual((thesis["type"], thesis["publisher"], thesis["genre"]), ("thesis", "S", "PhD thesis"))
        self.assertEqual((thesis["URL"], thesis["accessed"]), ("https://u.example", {"date-parts": [[2026, 2, 11]]}))
        article = entry(
            "@string{j = {Journal}}\n@article{a, journal = j, month = mar, year = 2022, number = 4, pages = {1--9}}"
        )
        self.assertEqual((article["container-title"], article["issue"], article["page"]), ("Journal", "4", "1-9"))
        self.assertEqual(article["issued"], {"date-parts": [[2022, 3]]})
        made = from_bibtex(
            "@book{b, title={Whole}, editor={E, F}, year=2016, publisher={P}}\n@incollection{c, crossref={b}, title={Part}}"
        )
        part = made["entries"][1][2]
        self.assertEqual(
            (part["container-title"], part["editor"], part["title"]), ("Whole", [{"family": "E", "given": "F"}], "Part")
        )

    def test_what_is_broken_is_told_with_its_line_and_the_rest_still_works(self) -> None:
        library = self.library(
            a_bib="@article{good, title = {One}}\n\n@article{open, title = {No end,\n  year = 2020\n\n@book{good, title = {Twice}}\n"
            "@bok{odd, title = {Odd}}\n@misc{last, title = {Last}, title = {Again}}\n"
        )
        self.assertEqual(list(library.entries), ["good", "odd"])
        told_of = [(problem.span.line, problem.what.split(":")[0]) for problem in library.problems]
        self.assertEqual([line for line, _ in told_of], [3, 6, 7, 8])
        self.assertIn("'book'", library.problems[2].hint)
        self.assertTrue(all(problem.severity is Severity.WARNING for problem in library.problems))

    def test_other_files_and_encodings(self) -> None:
        library = self.library(
            a_json='[{"id": "x", "type": "book", "title": "T"},\n {"type": "book"}]', b_bib="@book{ü, title = {Ü}}".encode("latin-1"),
            c_bib="@book{x, title = {Again}}", d_json="{", e_bib="\ufeff@book{bom, title = {T}}",
        )  # fmt: skip
        self.assertEqual(sorted(library.entries), ["bom", "x", "ü"])
        self.assertEqual(library.entries["x"].span, Span("a.json", 1))
        self.assertRegex(
            "\n".join(problem.what for problem in library.problems), r"(?s)no `id`.*not UTF-8.*already that.*no JSON"
        )
        missing = read_library([("refs.bib", HERE)], self.folder)
        self.assertEqual((missing.problems[0].span, missing.problems[0].severity), (HERE, Severity.ERROR))

    def test_entries_are_found_by_any_word_and_their_faults_named(self) -> None:
        library = self.library(
            r_bib="@article{ng2019, author = {Ng, Mei-Lin}, title = {The Sour Century}, journal = {J}, year = 2019, volume = 1, pages = 2}\n"
            '@book{zoe, author = {Moreau, Zo{\\"e}}, title = {Light}}\n'
        )
        self.assertEqual([told(e) for e in found(library, ["sour", "MEI"])], ["Ng (2019) The Sour Century"])
        self.assertEqual([e.key for e in found(library, ["zoe"])], ["zoe"])
        self.assertEqual(found(library, ["sour", "light"]), [])
        problems = [(p.span.line, p.severity, p.what) for p in faults(library, [("ng2019", HERE), ("ng2018", HERE)])]
        self.assertEqual(len(problems), 3)
        self.assertEqual(problems[0][1:], (Severity.ERROR, "no entry has the key 'ng2018'."))
        self.assertIn("lacks publisher, school or institution, year", problems[1][2])
        self.assertIn("never cited", problems[2][2])

    @given(
        st.fixed_dictionaries(
            {
                "title": st.text(alphabet="aB é&%DNA_", min_size=1, max_size=12).filter(str.strip),
                "family": st.text(alphabet="abcé", min_size=1, max_size=5),
                "year": st.integers(1500, 2030),
            }
        )
    )
    def test_an_entry_that_is_added_reads_back_as_it_was(self, work: dict[str, Any]) -> None:
        data = {"type": "book", "title": " ".join(work["title"].split()), "author": [{"family": work["family"].title(), "given": "A. B."}],
                "issued": {"date-parts": [[work["year"], 3]]}, "DOI": "10.5555/x.y"}  # fmt: skip
        back = entry(as_bibtex("key", data))
        self.assertEqual(plain_title(back["title"]), data["title"])
        self.assertEqual((back["author"], back["issued"], back["DOI"]), (data["author"], data["issued"], "10.5555/x.y"))


def plain_title(text: str) -> str:
    """A title without its tags."""
    return text.replace('<span class="nocase">', "").replace("</span>", "").replace("&amp;", "&")


class Adding(FolderCase):
    """`worn sources add`, with the stand-in for a resolver."""

    def test_a_work_is_added_once_and_refusals_say_why(self) -> None:
        import threading

        from tests.support import worn
        from wornpage.sources.stand_in import resolver

        works = [{"type": "journal-article", "title": ["DNA of Leaves"], "container-title": ["J"], "DOI": "10.5555/a.1",
                  "author": [{"family": "Ng", "given": "Mei-Lin"}], "issued": {"date-parts": [[2019]]}}]  # fmt: skip
        server = resolver(json.loads(json.dumps(works)))
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        address = f"http://127.0.0.1:{server.server_port}"
        self.write("page.md", "---\nbibliography: r.bib\n---\n\nText.\n")
        self.write("r.bib", "@book{ng2019, title = {T}}\n")
        first = worn(
            "sources", "add", "page.md", "https://doi.org/10.5555/a.1", "--resolver", address, folder=self.folder
        )
        self.assertEqual((first.returncode, first.stdout.splitlines()[0]), (0, "@article{ng2019a,"))
        self.assertIn("title = {{DNA} of Leaves},", (self.folder / "r.bib").read_text())
        for doi, where, why in (
            ("10.5555/a.1", address, "there already"), ("10.5555/b", address, "no such DOI"), ("x", address, "is no DOI"),
            ("10.5555/c", "http://127.0.0.1:9", "cannot be reached"),
        ):  # fmt: skip
            done = worn("sources", "add", "page.md", doi, "--resolver", where, folder=self.folder)
            self.assertEqual(done.returncode, 2)
            self.assertIn(why, done.stderr)
        self.assertEqual((self.folder / "r.bib").read_text().count("@"), 2)
        self.assertIn("ng2019a", worn("sources", "find", "page.md", "leaves", folder=self.folder).stdout)
        checked = worn("sources", "check", "page.md", folder=self.folder)
        self.assertIn("r.bib:3:1: warning: 'ng2019a' is never cited", checked.stderr)
