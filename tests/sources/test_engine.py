"""Citations and lists as the Citation Style Language describes them: small styles, each for one rule."""

import unittest
from itertools import pairwise
from pathlib import Path
from typing import Any
from xml.etree import ElementTree as ET

from hypothesis import given
from hypothesis import strategies as st

from wornpage.sources.csl_json import normalised
from wornpage.sources.engine import Cluster, Engine
from wornpage.sources.entries import Entry, read_library
from wornpage.sources.names import NameLook, render_names
from wornpage.sources.runs import Run, cased, parsed, tidied, words
from wornpage.sources.style import Style, StyleFault, read_style
from wornpage.tree.nodes import CiteItem
from wornpage.tree.span import Span

HERE = Span("r.bib", 1)
DEMO = Path(__file__).parent.parent.parent / "src/wornpage/demo"


def style(citation: str, bibliography: str = "", more: str = "", root: str = 'class="in-text"') -> Style:
    """A style of these parts."""
    text = f"<style {root}>{more}<citation {citation}</citation>"
    text += f"<bibliography {bibliography}</bibliography>" if bibliography else ""
    return Style(ET.fromstring(text + "</style>"), "en")


def engine(made: Style, **works: dict[str, Any]) -> Engine:
    """An engine in which these works are cited, in this order."""
    return Engine(made, {key: Entry(key, data, HERE) for key, data in works.items()}, list(works))


def cited(made: Engine, *keys: str | CiteItem, form: str = "", positions: tuple[str, ...] = ()) -> str:
    items = tuple(key if isinstance(key, CiteItem) else CiteItem(key) for key in keys)
    return words(made.cite(Cluster(items, form), positions).runs)


def work(family: str = "Ng", year: int = 2019, **more: Any) -> dict[str, Any]:
    given_name = more.pop("given", "Mei-Lin")
    return {"type": "book", "title": "T", "author": [{"family": family, "given": given_name}],
            "issued": {"date-parts": [[year]]}, **more}  # fmt: skip


LAYOUT = '><layout prefix="(" suffix=")" delimiter="; ">{}</layout>'
AUTHOR_YEAR = (
    '<group delimiter=" "><names variable="author"><name form="short" and="text" initialize-with=". "/></names>'
    '<date variable="issued"><date-part name="year"/></date></group>'
)


class Elements(unittest.TestCase):
    """One element each."""

    def rendered(self, element: str, more: str = "", **data: Any) -> str:
        return cited(engine(style(f"><layout>{element}</layout>", more=more), a={"type": "book", **data}), "a")

    def test_groups_fall_silent_with_their_variables_and_delimit_through_choose(self) -> None:
        group = '<group delimiter=", "><text value="in"/><text variable="volume"/><choose><if variable="page"><text variable="page"/><text value="x"/></if></choose></group>'
        self.assertEqual(self.rendered(group), "")
        self.assertEqual(self.rendered(group, volume="3"), "in, 3")
        self.assertEqual(self.rendered(group, page="3-9"), "in, 3–9, x")

    def test_a_macro_is_a_group_that_can_stand_for_what_is_missing(self) -> None:
        macros = '<macro name="place"><choose><if variable="publisher-place" match="none"><text value="n.p."/></if></choose></macro><macro name="led"><text value="led by"/><names variable="director" prefix=" "/></macro>'
        group = '<group delimiter=": "><text macro="place"/><text variable="publisher"/></group><text macro="led"/>'
        self.assertEqual(self.rendered(group, macros), "n.p.")
        self.assertEqual(self.rendered(group, macros, publisher="Quay Press"), "n.p.: Quay Press")

    def test_conditions(self) -> None:
        test = '<choose><if {}><text value="yes"/></if><else><text value="no"/></else></choose>'
        cases: list[tuple[str, dict[str, Any], str]] = [
            ('type="book report" match="any"', {}, "yes"), ('type="book report"', {}, "yes"), ('type="map report"', {}, "no"), ('type="book"', {"type": "report"}, "no"),
            ('is-numeric="edition"', {"edition": "2nd"}, "no"), ('is-numeric="edition"', {"edition": "2"}, "yes"),
            ('variable="title DOI"', {"title": "T"}, "no"), ('variable="title DOI" match="any"', {"title": "T"}, "yes"),
            ('variable="title" match="none"', {}, "yes"), ('is-uncertain-date="issued"', {"issued": {"date-parts": [[1]], "circa": True}}, "yes"),
        ]  # fmt: skip
        for attributes, data, expected in cases:
            with self.subTest(attributes, **data):
                self.assertEqual(self.rendered(test.format(attributes), **data), expected)

    def test_numbers_labels_and_ranges(self) -> None:
        number = '<number variable="edition" form="{}"/>'
        self.assertEqual(
            [self.rendered(number.format(f), edition="12") for f in ("ordinal", "roman", "numeric")],
            ["12th", "xii", "12"],
        )
        in_words = number.format("long-ordinal")
        self.assertEqual([self.rendered(in_words, edition=n) for n in ("2", "10", "21")], ["second", "tenth", "21st"])
        own = '<locale><terms><term name="ordinal">º</term><term name="ordinal-01">ˢᵗ</term><term name="ordinal-11">*</term><term name="long-ordinal-02">deuce</term></terms></locale>'
        self.assertEqual(
            [self.rendered(number.format("ordinal"), own, edition=n) for n in ("2", "21", "111")],
            ["2º", "21ˢᵗ", "111*"],
        )
        self.assertEqual(self.rendered(in_words, own, edition="2"), "deuce")
        self.assertEqual(self.rendered('<label variable="page" form="short" suffix=" "/>', page="3-9"), "pp. ")
        self.assertEqual(self.rendered('<label variable="page"/>', page="3"), "page")
        for form, expected in {"": "321–328", "minimal": "321–8", "chicago": "321–28"}.items():
            root = f'page-range-format="{form}"' if form else ""
            made = engine(
                style('><layout><text variable="page"/></layout>', root=root), a={"type": "book", "page": "321-328"}
            )
            self.assertEqual(cited(made, "a"), expected)

    def test_dates_in_parts_forms_and_languages(self) -> None:
        day: dict[str, Any] = {"issued": {"date-parts": [[2026, 3, 1]]}}
        self.assertEqual(self.rendered('<date variable="issued" form="text"/>', **day), "1 March 2026")
        self.assertEqual(self.rendered('<date variable="issued" form="text" date-parts="year"/>', **day), "2026")
        self.assertEqual(
            self.rendered('<date variable="issued" form="text" date-parts="year-month"/>', **day), "March 2026"
        )
        parts = '<date variable="issued" delimiter="/"><date-part name="day" form="numeric-leading-zeros"/><date-part name="month" form="short" strip-periods="true"/></date>'
        self.assertEqual(self.rendered(parts, **day), "01/Mar")
        self.assertEqual(
            self.rendered(
                '<date variable="issued"><date-part name="year"/></date>', issued={"date-parts": [[2019], [2021]]}
            ),
            "2019–2021",
        )
        self.assertEqual(self.rendered('<date variable="issued" form="numeric"/>', **day), "01/03/2026")
        american = engine(
            style('><layout><date variable="issued" form="text"/></layout>', root='default-locale="en-US"'),
            a={"type": "b", **day},
        )
        self.assertEqual(cited(american, "a"), "March 1, 2026")
        own = '<date variable="issued"><date-part name="day" form="ordinal"/></date>'
        for root, expected in {"fr": ["1ᵉʳ", "2"], "es": ["1.º", "2.º"], "en": ["1st", "2nd"]}.items():
            made = style(f"><layout>{own}</layout>", root=f'default-locale="{root}"')
            days = [{"type": "b", "issued": {"date-parts": [[2026, 3, day]]}} for day in (1, 2)]
            self.assertEqual([cited(engine(made, a=day), "a") for day in days], expected)

    def test_case_quotes_and_affixes(self) -> None:
        text = '<text variable="title" {}/>'
        title = 'the <span class="nocase">pH</span> of old books: an essay'
        self.assertEqual(self.rendered(text.format('text-case="title"'), title=title), "The pH of Old Books: An Essay")
        self.assertEqual(
            self.rendered(text.format('text-case="sentence"'), title="The Life of Paper"), "The life of paper"
        )
        self.assertEqual(self.rendered(text.format('quotes="true" suffix="."'), title="a “b” c"), "“a ‘b’ c”.")
        self.assertEqual(self.rendered(text.format('prefix="(" suffix=")"')), "")
        own = '<locale><style-options punctuation-in-quote="true"/><terms><term name="open-quote">«</term></terms></locale>'
        self.assertEqual(self.rendered(text.format('quotes="true" suffix="."'), own, title="a"), "«a.”")

    def test_substitutes_stand_in_once(self) -> None:
        names = '<names variable="author"><name/><label form="short" prefix=" (" suffix=")"/><substitute><names variable="editor"/><text variable="title"/></substitute></names><text variable="title" prefix=". "/>'
        people = [{"family": "Ng", "given": "M."}, {"family": "Li", "given": "T."}]
        self.assertEqual(self.rendered(names, editor=people, title="T"), "M. Ng, T. Li (eds.). T")
        self.assertEqual(self.rendered(names, title="T"), "T")
        ended = names.replace('variable="author"', 'variable="author" suffix=". "', 1).replace(' prefix=". "', "")
        self.assertEqual(self.rendered(ended, editor=people, title="T"), "M. Ng, T. Li (eds.). T")  # one stop, not two

    def test_a_word_of_the_styles_begins_large_and_a_name_as_it_is_written(self) -> None:
        names = '<names variable="author"><substitute><text term="anonymous"/></substitute></names>'
        made = engine(
            style(f"><layout>{names}</layout>", f'><layout>{names}<text variable="title" prefix=", "/></layout>', root='class="note"'),
            a={"type": "book", "title": "T"}, b={"type": "book", "title": "U", "author": [{"literal": "van Berg"}]},
        )  # fmt: skip
        self.assertEqual([words(runs) for _, _, runs in made.references()], ["Anonymous, T", "van Berg, U"])
        self.assertEqual([cited(made, key) for key in "ab"], ["Anonymous", "van Berg"])


class People(unittest.TestCase):
    """Lists of names."""

    NAMES = [{"family": "Berg", "non-dropping-particle": "van der", "given": "Jonne-Per A."}, {"literal": "The Library"}, {"family": "Li", "given": "T", "suffix": "Jr."}]  # fmt: skip

    def said(self, names: list[dict[str, Any]] | None = None, **look: Any) -> str:
        return words(render_names(names or self.NAMES, NameLook(**look), style("><layout/>"))[0])

    def test_order_initials_particles_and_joining(self) -> None:
        self.assertEqual(self.said(join="text"), "Jonne-Per A. van der Berg, The Library, and T Li Jr.")
        self.assertEqual(self.said(sort_order="all", initials=". "), "Berg, J.-P. A. van der, The Library, Li, T., Jr.")
        self.assertEqual(
            self.said(sort_order="first", particle="never", initials=""), "van der Berg, J-PA, The Library, T Li Jr"
        )
        self.assertEqual(
            self.said(join="symbol", precedes_last="never", form="short"), "van der Berg, The Library & Li"
        )
        self.assertEqual(self.said(self.NAMES[:2], join="text"), "Jonne-Per A. van der Berg and The Library")

    def test_long_lists_are_cut(self) -> None:
        self.assertEqual(self.said(form="short", least=3), "van der Berg et al.")
        self.assertEqual(self.said(form="short", least=3, first=2), "van der Berg, The Library, et al.")
        self.assertEqual(self.said(form="short", least=3, first=1, use_last=True), "van der Berg, … Li")
        self.assertEqual(self.said([self.NAMES[2], {"others": True}], form="short"), "Li et al.")


class Apart(unittest.TestCase):
    """Works that would look alike are told apart."""

    def test_letters_follow_the_order_of_the_list(self) -> None:
        made = engine(
            style(f'disambiguate-add-year-suffix="true" {LAYOUT.format(AUTHOR_YEAR)}', '><sort><key variable="title"/></sort><layout><text variable="title"/><date variable="issued" prefix=" "><date-part name="year"/></date></layout>'),
            late=work(title="Zebra"), early=work(title="Aspen"), other=work("Li"),
        )  # fmt: skip
        self.assertEqual(cited(made, "late", "early", "other"), "(Ng 2019b; Ng 2019a; Li 2019)")
        self.assertEqual([words(runs) for _, _, runs in made.references()], ["Aspen 2019a", "T 2019", "Zebra 2019b"])

    def test_works_are_sorted_by_what_their_dates_show(self) -> None:
        year = '<macro name="year"><date variable="issued"><date-part name="year"/></date></macro>'
        sort = '><sort><key macro="year"/><key variable="author"/></sort><layout prefix="(" suffix=")" delimiter="; ">'
        late, early = work("Berg"), work("Tarn")
        late["issued"], early["issued"] = {"date-parts": [[2019, 12, 3]]}, {"date-parts": [[2019]]}
        made = engine(style(f"{sort}{AUTHOR_YEAR}</layout>", more=year), t=early, b=late)
        self.assertEqual(cited(made, "t", "b"), "(Berg 2019; Tarn 2019)")

    def test_only_whom_works_are_cited_by_needs_telling_apart(self) -> None:
        options = 'disambiguate-add-givenname="true" givenname-disambiguation-rule="primary-name" '
        made = engine(style(options + LAYOUT.format(AUTHOR_YEAR)), a=work(given="Ada"),
                      b=work("Li", editor=[{"family": "Ng", "given": "Bo"}]))  # fmt: skip
        self.assertEqual(cited(made, "a", "b"), "(Ng 2019; Li 2019)")

    def test_what_stood_between_the_names_and_the_year_goes_with_the_names(self) -> None:
        made = engine(
            style(LAYOUT.format('<names variable="author"><name form="short"/></names><date variable="issued" prefix=", "><date-part name="year"/></date>')),
            a=work(), b=work("Li", 2020),
        )  # fmt: skip
        self.assertEqual(cited(made, "a", "b"), "(Ng, 2019; Li, 2020)")
        self.assertEqual(cited(made, "a", form="sentence").replace("\u00a0", " "), "Ng (2019)")

    def test_a_style_may_place_the_letter_itself(self) -> None:
        own = '<text variable="title"/><text variable="year-suffix" prefix="-"/><date variable="issued" prefix=" "><date-part name="year"/></date>'
        made = engine(style(f'disambiguate-add-year-suffix="true" {LAYOUT.format(own)}'), a=work(), b=work())
        self.assertEqual(cited(made, "a", "b"), "(T-a 2019; T-b 2019)")

    def test_given_names_and_more_names_come_before_letters(self) -> None:
        options = 'disambiguate-add-names="true" disambiguate-add-givenname="true" disambiguate-add-year-suffix="true" et-al-min="3" et-al-use-first="1" '
        made = engine(
            style(options + LAYOUT.format(AUTHOR_YEAR)), a=work("Smith", given="Ada"), b=work("Smith", given="Bram"),
            c={**work(), "author": [{"family": x} for x in ("Kim", "Ito", "Li")]}, d={**work(), "author": [{"family": x} for x in ("Kim", "Olsen", "Li")]},
        )  # fmt: skip
        self.assertEqual(cited(made, "a", "b"), "(A. Smith 2019; B. Smith 2019)")
        self.assertEqual(cited(made, "c", "d"), "(Kim, Ito, et al. 2019; Kim, Olsen, et al. 2019)")

    def test_each_step_that_tells_some_works_apart_is_kept_and_shows_in_the_list(self) -> None:
        options = 'disambiguate-add-names="true" disambiguate-add-givenname="true" et-al-min="3" et-al-use-first="1" '
        names = '<names variable="author"><name {}initialize-with=". "/></names>'
        made = engine(
            style(options + LAYOUT.format(names.format('form="short" ')), f'et-al-min="3" et-al-use-first="1"><layout>{names.format("")}</layout>'),
            **{key: {**work(), "author": [{"family": "Ide", "given": given}, {"family": second, "given": "Jon"}, {"family": "Zeh"}]}
               for key, given, second in (("a", "Ann", "Moss"), ("b", "Ann", "Reed"), ("c", "Gus", "Tarn"), ("d", "Dan", "Lee"))},
        )  # fmt: skip
        self.assertEqual(
            cited(made, *"abcd"), "(A. Ide, Moss, et al.; A. Ide, Reed, et al.; G. Ide et al.; D. Ide et al.)"
        )
        listed = [words(body) for _, _, body in made.references()]
        self.assertEqual(
            listed, ["A. Ide, J. Moss, et al.", "A. Ide, J. Reed, et al.", "G. Ide et al.", "D. Ide et al."]
        )


class Clusters(unittest.TestCase):
    """Several works in one citation, and its forms."""

    NUMBERED = '><layout prefix="[" suffix="]" delimiter=", "><text variable="citation-number"/></layout>'

    @given(st.lists(st.integers(1, 9), min_size=1, max_size=8, unique=True))
    def test_neighbouring_numbers_are_ranges(self, numbers: list[int]) -> None:
        made = engine(
            style(f'collapse="citation-number" {self.NUMBERED}'), **{f"w{n}": work(year=n) for n in range(1, 10)}
        )
        said = cited(made, *(f"w{n}" for n in numbers))
        back: list[int] = []
        for part in said.strip("[]").split(", "):
            ends = [int(end) for end in part.split("–")]
            back += range(ends[0], ends[-1] + 1)
            self.assertTrue(len(ends) == 1 or ends[1] - ends[0] >= 2)
        self.assertEqual(back, sorted(numbers))

    def test_works_of_one_author_stand_together(self) -> None:
        options = 'collapse="{}" disambiguate-add-year-suffix="true" '
        works = {"a": work(), "b": work("Li"), "c": work(), "d": work(year=2021)}
        by_year = engine(style(options.format("year") + LAYOUT.format(AUTHOR_YEAR)), **works)
        self.assertEqual(cited(by_year, "a", "b", "c", "d"), "(Ng 2019a, 2019b, 2021; Li 2019)")
        by_suffix = engine(style(options.format("year-suffix") + LAYOUT.format(AUTHOR_YEAR)), **works)
        self.assertEqual(cited(by_suffix, "a", "c", "d"), "(Ng 2019a, b, 2021)")

    def test_locators_prefixes_and_forms(self) -> None:
        layout = (
            AUTHOR_YEAR
            + '<group delimiter=" " prefix=", "><label variable="locator" form="short"/><text variable="locator"/></group>'
        )
        made = engine(style(LAYOUT.format(layout)), a=work(), b=work("Li", 2020))
        items = (CiteItem("a", "see", "4-6", "page"), CiteItem("b", "", "2", "chapter", "too"))
        self.assertEqual(words(made.cite(Cluster(items)).runs), "(see Ng 2019, pp. 4–6; Li 2020, chap. 2 too)")
        self.assertEqual(cited(made, CiteItem("a", locator="4"), form="sentence"), "Ng\u00a0(2019, p. 4)")
        self.assertEqual((cited(made, "a", form="author"), cited(made, "a", form="year")), ("Ng", "2019"))
        numbered = engine(style(self.NUMBERED), a=work())
        self.assertEqual(cited(numbered, "a", form="sentence"), "Ng\u00a0[1]")

    def test_positions_in_notes(self) -> None:
        layout = '><layout><choose><if position="ibid"><text term="ibid"/></if><else-if position="subsequent"><text value="short"/></else-if><else><text value="long"/></else></choose></layout>'
        made = engine(style(layout, root='class="note"'), a=work())
        self.assertEqual(
            [cited(made, "a", positions=(p,)) for p in ("first", "subsequent", "ibid", "ibid-with-locator")],
            ["long", "short", "Ibid.", "Ibid."],
        )


odd = st.recursive(
    st.none() | st.booleans() | st.integers(-3000, 3000) | st.sampled_from(["", "2020", "2020-13", "A, B", "<i>x</i>", "3-9", "in press"]),
    lambda inner: st.lists(inner, max_size=2) | st.dictionaries(st.sampled_from(["family", "given", "literal", "name", "date-parts", "raw"]), inner, max_size=2),
    max_leaves=5,
)  # fmt: skip


class Odd(unittest.TestCase):
    """Whatever a CSL-JSON file holds can be cited and listed."""

    STYLES = tuple(read_style(name, DEMO, "en")[0] for name in ("author-year", "numbered"))

    @given(
        st.dictionaries(
            st.sampled_from(
                ["type", "title", "author", "editor", "issued", "accessed", "page", "volume", "DOI", "URL"]
            ),
            odd,
        )
    )
    def test_nothing_in_an_entry_breaks_the_engine(self, item: dict[str, Any]) -> None:
        data, _ = normalised(item)
        for made in (Engine(made, {k: Entry(k, data, HERE) for k in "ab"}, ["a", "b"]) for made in self.STYLES):
            for form in ("", "sentence", "author", "year"):
                self.assertIsInstance(cited(made, CiteItem("a", locator="4"), "b", form=form), str)
            self.assertLessEqual(len(made.references()), 2)

    def test_what_makes_sense_is_kept(self) -> None:
        item = {"id": "x", "title": ["T"], "author": ["N. Ame", {"name": "Body"}, {"family": "F", "given": "G"}], "volume": 3,
                "issued": {"date-parts": [["2020", "3", "40"]]}, "accessed": "2026-01-02", "page": {"a": 1}}  # fmt: skip
        data, left_out = normalised(item)
        self.assertEqual(
            (data["title"], data["volume"], data["issued"], left_out), ("T", "3", {"date-parts": [[2020, 3]]}, ["page"])
        )
        self.assertEqual(data["author"], [{"literal": "N. Ame"}, {"literal": "Body"}, {"family": "F", "given": "G"}])
        self.assertEqual(data["accessed"], {"date-parts": [[2026, 1, 2]]})


class Runs(unittest.TestCase):
    """The seams between pieces."""

    def test_stops_that_meet_are_one(self) -> None:
        for parts, text in {
            ("Ed.", ".", " A"): "Ed. A",
            ("Why?", "."): "Why?",
            ("a,", ", b"): "a, b",
            ("a ", " b"): "a b",
            ("a.”", ". B"): "a.” B",
        }.items():
            self.assertEqual(words(tidied(tuple(Run(part) for part in parts))), text)

    def test_small_capitals_have_two_tags(self) -> None:
        runs = parsed('<sc>a</sc><span style="font-variant:small-caps;">b<span class="nocase">c</span></span>d')
        self.assertEqual(
            [sorted(run.looks) for run in runs], [["smallcaps"], ["smallcaps"], ["nocase", "smallcaps"], []]
        )

    def test_tags_become_looks(self) -> None:
        self.assertEqual(parsed("a <i>b</i>&amp;"), (Run("a "), Run("b", frozenset({"italic"})), Run("&")))
        self.assertEqual(words(cased(parsed("of mice and men"), "title", "en")), "Of Mice and Men")
        self.assertEqual(words(cased(parsed("of mice"), "title", "de")), "of mice")


class Whole(unittest.TestCase):
    """Our own styles over every type of entry."""

    def test_every_entry_of_the_demo_is_said_whole_in_both_styles(self) -> None:
        library = read_library([("references.bib", HERE)], DEMO)
        self.assertEqual(library.problems, [])
        self.assertGreaterEqual(len({entry.data["type"] for entry in library.entries.values()}), 12)
        for name in ("author-year", "numbered"):
            made = Engine(read_style(name, DEMO, "en")[0], library.entries, list(library.entries))
            listed = made.references()
            self.assertEqual(len(listed), len(library.entries))
            for key, _, runs in listed:
                said = words(runs)
                with self.subTest(key):
                    self.assertNotRegex(said, r"\.\.|,,|  | ,|\(\)|None|<|^\W")
                    title = words(parsed(library.entries[key].data["title"]))
                    self.assertIn(title, said)
            texts = {key: words(runs) for key, _, runs in listed}
            self.assertIn("PhD thesis", texts["haddad2014"])
            self.assertIn("accessed 11 February 2026", texts["haddad2014"])
            self.assertIn("(eds.)", texts["tanaka2016"])
            self.assertIn("pp. 14–22", texts["cruz2018"])
        order = [
            key
            for key, _, _ in Engine(
                read_style("author-year", DEMO, "en")[0], library.entries, list(library.entries)
            ).references()
        ]
        self.assertTrue(
            all(
                order.index(a) < order.index(b)
                for a, b in pairwise(["brask1975", "council2024", "okafor2022a", "okafor2022b", "smith1999"])
            )
        )

    def test_styles_that_cannot_be_used_say_why(self) -> None:
        for name, what in (
            ("author-yaer", "no citation style"),
            ("gone.csl", "no style file"),
            ("references.csl", "no style file"),
        ):
            with self.subTest(name), self.assertRaises(StyleFault) as caught:
                read_style(name, DEMO, "en")
            self.assertIn(what, caught.exception.what)
