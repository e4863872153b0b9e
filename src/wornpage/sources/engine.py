"""Citations and the list of references, as Citation Style Language 1.0.2 describes them.

One `Engine` holds a page's cited works in order. What a style leaves to the processor is done here: numbers, letters
after the years of works that would look alike, more names where few do not tell works apart, ranges of numbers.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Mapping, Sequence
from itertools import pairwise
from xml.etree.ElementTree import Element

from msgspec import Struct, field
from msgspec.structs import replace

from wornpage.sources.dates import date_key, parts_of_date, render_date
from wornpage.sources.entries import Entry
from wornpage.sources.names import Name, NameLook, given_levels, render_names
from wornpage.sources.runs import TERM, Run, Runs, cased, joined, parsed, tidied, with_look, without_look, words
from wornpage.sources.style import Style
from wornpage.tree.counting import letters
from wornpage.tree.nodes import CiteItem

_RANGES = {"issue", "volume", "number-of-pages", "number-of-volumes", "collection-number", "chapter-number"}
"""Variables in which a hyphen between figures is a range."""
_NUMERIC = re.compile(r"[A-Za-z]?\d+[a-z]?(?:\s*(?:[-–,&]|and|und|et|y)\s*[A-Za-z]?\d+[a-z]?)*$")
_ROMAN = ((1000, "m"), (900, "cm"), (500, "d"), (400, "cd"), (100, "c"), (90, "xc"), (50, "l"), (40, "xl"), (10, "x"),
          (9, "ix"), (5, "v"), (4, "iv"), (1, "i"))  # fmt: skip


class Cluster(Struct, frozen=True):
    """One citation, of one or several works."""

    items: tuple[CiteItem, ...]
    form: str = ""
    """``, `sentence`, `author` or `year`."""


class Rendered(Struct, frozen=True):
    """A citation in words: what comes before the note or the brackets, and what stands in them."""

    runs: Runs
    keys: tuple[str, ...]


class Cite(Struct):
    """Where a work is being rendered."""

    entry: Entry
    item: CiteItem
    in_list: bool = False
    position: str = "first"
    hide_author: bool = False
    hidden: bool = False
    """Whether the author has been left out already."""
    substituted: tuple[str, ...] = ()
    """Variables that have been used up by a substitution."""
    for_sort: bool = False
    sort_rule: Element | None = None
    """Which key of the style's it is for, which may say how many names count."""
    replaced_names: str | None = None
    short_names: bool = False
    """Family names only, whatever the style says: for running text."""
    auto_suffix: bool = False
    """Whether the letter after the year goes after the first year that is written."""
    suffix_said: bool = False
    said: list[str] = field(default_factory=list)
    """Variables that have been written so far."""
    note: int = 0


class Out(Struct, frozen=True):
    """Runs, and whether a variable was asked for and whether one had something to say."""

    runs: Runs = ()
    asked: bool = False
    found: bool = False


class Work(Struct):
    """What is known of a cited work across the page."""

    entry: Entry
    number: int = 0
    suffix: str = ""
    more_names: int = 0
    with_given: int = 0
    """Of how many names the given ones are added, to tell it from another."""
    levels: Mapping[tuple[str, str], int] | None = None
    """How much of which given names tells it from another where it is cited."""
    apart: bool = False
    first_note: int = 0


_MOST_NAMES = 12
"""Names of one work that are told apart at most."""


class Engine:
    """Renders the citations of one page. Works are registered in the order they are first cited."""

    def __init__(self, style: Style, entries: Mapping[str, Entry], cited: Sequence[str]) -> None:
        self.style = style
        self.works = {key: Work(entries[key]) for key in dict.fromkeys(cited) if key in entries}
        for number, work in enumerate(self.works.values(), 1):
            work.number = number
        citation = style.citation
        tells = citation is not None and citation.get("disambiguate-add-givenname") == "true"
        self.rule = citation.get("givenname-disambiguation-rule", "by-cite") if citation is not None and tells else ""
        """Whose given names are added to tell people apart; empty for nobody's."""
        self._known_levels: dict[str | None, dict[tuple[str, str], int]] = {}
        self.listed = self._sorted(list(self.works), style.bibliography)
        if style.is_numeric and style.bibliography is not None and style.bibliography.find("sort") is not None:
            for number, key in enumerate(self.listed, 1):
                self.works[key].number = number
        self._tell_apart()

    # --- what is asked for --------------------------------------------------------------------

    def cite(
        self, cluster: Cluster, positions: Sequence[str] = (), note: int = 0, is_whole_note: bool = True
    ) -> Rendered:
        """A citation in words, without the looks of its place; brackets and all come from the style.

        In a style of notes, one that is no note of its own does not end as notes do.
        """
        assert self.style.citation is not None
        items = [item for item in cluster.items if item.key in self.works]
        layout = self.style.citation.find("layout")
        assert layout is not None
        if cluster.form == "author":
            return Rendered(joined((self.author(item.key) for item in items), ", "), tuple(i.key for i in items))
        if cluster.form == "year":
            years = [_linked(self.year(item.key), item.key) for item in items]
            return Rendered(joined(years, ", "), tuple(item.key for item in items))
        if (not self.style.is_note and not self.style.is_numeric) or len(items) > 1:
            items = self._in_order(items)
        hide = cluster.form == "sentence" and not self.style.is_numeric and not self.style.is_note
        parts: list[tuple[CiteItem, Runs]] = []
        for place, item in enumerate(items):
            position = positions[place] if place < len(positions) else "first"
            cite = Cite(self.works[item.key].entry, item, position=position, hide_author=hide, note=note)
            said = self._said(layout, cite)
            parts.append((item, _trimmed(said, " ,;:") if hide else said))
        delimiter = layout.get("delimiter", "")
        if any(item.locator or item.suffix for item, _ in parts):  # else a page could be taken for the next work
            delimiter = layout.get("delimiter-after-locators", delimiter)
        body = self._collapsed(parts, delimiter) or joined(
            (_affixed(_linked(runs, item.key), item) for item, runs in parts), delimiter
        )
        if self.style.is_note:
            body = self._begun(body)
        if words(body).strip():
            ending = layout.get("suffix", "") if is_whole_note else ""
            body = (Run(layout.get("prefix", "")), *body, Run(ending))
        body = _looked(tuple(run for run in body if run.text), layout)
        if cluster.form == "sentence":
            lead = joined((self.author(item.key) for item in items), ", ")
            linked = tuple(replace(run, href=f"#ref-{items[0].key}") for run in lead) if items else lead
            raised = bool(body) and "sup" in body[0].looks
            gap = (Run("\u00a0"),) if words(body) and not raised else ()
            body = body if self.style.is_note else (*linked, *gap, *body)
        return Rendered(self._settled(body), tuple(item.key for item in items))

    def _said(self, layout: Element, cite: Cite) -> Runs:
        """A layout for one work; the letter after its year goes where the style says, or else after the first year."""
        first = replace(cite)
        delimiter = layout.get("delimiter", "") if cite.in_list else ""
        runs = self._children(layout, first, delimiter).runs
        if not self.works[cite.entry.key].suffix or first.suffix_said:
            return runs
        return self._children(layout, replace(cite, auto_suffix=True), delimiter).runs

    def author(self, key: str) -> Runs:
        """The names a work goes by in running text; its title where it has none."""
        work = self.works[key]
        assert self.style.citation is not None
        layout = self.style.citation.find("layout")
        assert layout is not None
        for names in self._elements(layout, "names"):
            cite = Cite(work.entry, CiteItem(key), short_names=True)
            made = self._names(names, cite).runs
            if words(made):
                return tidied(made)
        short = work.entry.data.get("title-short") or work.entry.data.get("title") or key
        authors = work.entry.data.get("author") or work.entry.data.get("editor")
        if authors:
            look = NameLook(form="short", join="text", least=4, first=1)
            return tidied(render_names(authors, look, self.style)[0])
        return parsed(str(short))

    def year(self, key: str) -> Runs:
        """The year of a work, with its letter."""
        work = self.works[key]
        parts = (work.entry.data.get("issued") or {}).get("date-parts") or [[]]
        year = str(parts[0][0]) if parts[0] else self.style.term("no date", "short")
        return (Run(f"{year}{work.suffix}"),)

    def references(self) -> list[tuple[str, Runs, Runs]]:
        """The list: key, what stands in the margin (a number or a label) if the style sets it apart, and the entry."""
        if self.style.bibliography is None:
            return []
        layout = self.style.bibliography.find("layout")
        assert layout is not None
        aligned = bool(self.style.bibliography.get("second-field-align"))
        substitute = self.style.bibliography.get("subsequent-author-substitute")
        made = []
        before: list[Name] = []
        for key in self.listed:
            cite = Cite(self.works[key].entry, CiteItem(key), in_list=True)
            people = _people(cite.entry)
            if (
                substitute is not None
                and people
                and people == before
                and words(self._first_names(layout, replace(cite)))
            ):
                cite.replaced_names = substitute
            before = people
            first: Runs = ()
            children = list(layout)
            if aligned and children:
                first = tidied(self._element(children[0], cite).runs)
                children = children[1:]
            body = self._said(_holding(children, layout), cite)
            body = body if first else self._begun(body)
            if not any(letter.isalnum() for letter in words(body)):
                continue  # some styles list no letters, no manuscripts
            body = (Run(layout.get("prefix", "")), *body, Run(layout.get("suffix", "")))
            runs = self._settled(_looked(tuple(run for run in body if run.text), layout))
            made.append((key, tuple(replace(run, text=run.text.strip()) for run in first), _trimmed(runs)))
        return made

    def _begun(self, runs: Runs) -> Runs:
        """What begins a note or an entry: a word of the style's (`ibid.`, `anonymous`) gets a large letter there, a name keeps its own."""
        begins = next((run for run in runs if run.text.strip()), None)
        return cased(runs, "capitalize-first", self.style.language) if begins and TERM in begins.looks else runs

    def _settled(self, runs: Runs) -> Runs:
        """Runs fit for print; American styles want commas and stops inside quotes."""
        inside = self.style.options.get("punctuation-in-quote", "true" if self.style.locale == "en-US" else "false")
        return tidied(runs, inside == "true")

    def _first_names(self, layout: Element, cite: Cite) -> Runs:
        for names in self._elements(layout, "names"):
            made = self._names(names, cite).runs
            if words(made):
                return made
        return ()

    def _elements(self, root: Element, tag: str) -> Iterable[Element]:
        """Elements of a kind in reading order, through macros."""
        for element in root:
            if element.tag == "text" and element.get("macro") in self.style.macros:
                yield from self._elements(self.style.macros[element.get("macro", "")], tag)
            elif element.tag == tag:
                yield element
            else:
                yield from self._elements(element, tag)

    # --- order and letters --------------------------------------------------------------------

    def _in_order(self, items: list[CiteItem]) -> list[CiteItem]:
        if self.style.citation is None or self.style.citation.find("sort") is None:
            if self.style.is_numeric:
                return sorted(items, key=lambda item: self.works[item.key].number)
            return items
        keys = self._sorted([item.key for item in items], self.style.citation)
        return sorted(items, key=lambda item: keys.index(item.key))

    def _sorted(self, keys: list[str], part: Element | None) -> list[str]:
        sort = part.find("sort") if part is not None else None
        if sort is None:
            return keys
        ordered = list(keys)
        for rule in reversed(list(sort)):
            descending = rule.get("sort") == "descending"
            held = {key: self._sort_key(rule, key, part is self.style.bibliography) for key in ordered}
            full = [key for key in ordered if held[key]]
            empty = [key for key in ordered if not held[key]]
            ordered = sorted(full, key=lambda key: held[key], reverse=descending) + empty
        return ordered

    def _sort_key(self, rule: Element, key: str, in_list: bool) -> tuple[object, ...] | str:
        work = self.works[key]
        variable, macro = rule.get("variable"), rule.get("macro")
        if variable == "citation-number":
            return f"{work.number:09d}"
        if variable in {"issued", "accessed", "original-date", "event-date"}:
            return date_key(work.entry.data.get(variable) or {})
        if variable and isinstance(work.entry.data.get(variable), list):
            look = NameLook(sort_order="all", for_sort=True)
            return _collated(words(render_names(work.entry.data[variable], look, self.style)[0]))
        if variable:
            return _collated(words(parsed(str(work.entry.data.get(variable, "")))))
        if macro in self.style.macros:
            cite = Cite(work.entry, CiteItem(key), in_list=in_list, for_sort=True, sort_rule=rule)
            return _collated(words(self._children(self.style.macros[macro or ""], cite).runs))
        return ""

    def _tell_apart(self) -> None:
        """Works whose citations would look alike: more names, given names, letters after the year, as the style allows."""
        citation = self.style.citation
        if citation is None or self.style.is_numeric:
            return
        for group in self._alike():
            self._add_names(group, citation.get("disambiguate-add-names") == "true", self.rule == "by-cite")
        for group in self._alike():
            for key in group:
                self.works[key].apart = True
        if citation.get("disambiguate-add-year-suffix") == "true":
            for group in self._alike():
                for place, key in enumerate(sorted(group, key=self.listed.index)):
                    self.works[key].suffix = letters(place + 1)
            self.listed = self._sorted(list(self.works), self.style.bibliography)

    def _add_names(self, group: list[str], more: bool, given: bool, names: int = 0, told: int = 0) -> None:
        """Give alike works further names and given names, one at a time, as long as each tells some of them from others."""
        most = min(max(len(_people(self.works[key].entry)) for key in group), _MOST_NAMES)
        for count in range(names, most if more else 1):
            for known in range(told, min(count + 4, most + 1) if given else told + 1):
                self._set_names(group, count, known)
                parts = self._parts(group)
                if len(parts) > 1:
                    for part in parts:
                        if len(part) > 1:
                            self._add_names(part, more, given, count, known)
                    return
        self._set_names(group, names, told)

    def _set_names(self, group: list[str], names: int, told: int) -> None:
        for key in group:
            self.works[key].more_names, self.works[key].with_given = names, told

    def _alike(self) -> list[list[str]]:
        """Works whose citations look alike."""
        return [group for group in self._parts(self.works) if len(group) > 1]

    def _parts(self, keys: Iterable[str]) -> list[list[str]]:
        """Works by what their citations look like."""
        groups: dict[str, list[str]] = {}
        for key in keys:
            groups.setdefault(self._plain(key), []).append(key)
        return list(groups.values())

    def _plain(self, key: str) -> str:
        assert self.style.citation is not None
        layout = self.style.citation.find("layout")
        assert layout is not None
        position = "subsequent" if self.style.is_note else "first"
        return words(self._children(layout, Cite(self.works[key].entry, CiteItem(key), position=position)).runs)

    # --- collapsing ---------------------------------------------------------------------------

    def _collapsed(self, parts: list[tuple[CiteItem, Runs]], delimiter: str) -> Runs:
        assert self.style.citation is not None
        collapse = self.style.citation.get("collapse", "")
        if len(parts) < 2 or not collapse:
            return ()
        if collapse == "citation-number":
            return self._ranges(parts, delimiter)
        if any(item.locator or item.prefix or item.suffix for item, _ in parts):
            return ()
        return self._by_author(parts, collapse, delimiter)

    def _ranges(self, parts: list[tuple[CiteItem, Runs]], delimiter: str) -> Runs:
        """Numbers that follow each other as a range: 1–3, 7. One with words or a place of its own ends a range."""

        def says_number(part: tuple[CiteItem, Runs]) -> bool:
            return re.sub(r"\W+", "", words(part[1])) == str(self.works[part[0].key].number)

        groups: list[list[tuple[CiteItem, Runs]]] = []
        for item, runs in parts:
            before = groups[-1][-1][0] if groups else None
            goes_on = before is not None and self.works[before.key].number + 1 == self.works[item.key].number
            if (
                goes_on
                and groups[-1][-1][0].suffix == item.prefix == ""
                and says_number(groups[-1][-1])
                and says_number((item, runs))
            ):
                groups[-1].append((item, runs))
            else:
                groups.append([(item, runs)])
        made = []
        for group in groups:
            linked = [_affixed(_linked(runs, item.key), item) for item, runs in group]
            if len(group) > 2:
                made.append((*linked[0], Run("–"), *linked[-1]))
            else:
                made += linked
        return joined(made, delimiter)

    def _by_author(self, parts: list[tuple[CiteItem, Runs]], collapse: str, delimiter: str) -> Runs:
        """Works of the same names together: Ng 2019, 2020a, b."""
        assert self.style.citation is not None
        groups: list[tuple[str, list[CiteItem], Runs]] = []
        for item, runs in parts:
            author = words(self.author(item.key))
            found = next((group for group in groups if group[0] == author), None)
            if found is None:
                groups.append((author, [item], runs))
            else:
                found[1].append(item)
        year_delimiter = self.style.citation.get("cite-group-delimiter", ", ")
        made = []
        for _, items, runs in groups:
            pieces = [_linked(runs, items[0].key)]
            for before, item in pairwise(items):
                year = self.year(item.key)
                suffix = self.works[item.key].suffix
                if collapse == "year-suffix" and suffix and _year(self, before.key) == _year(self, item.key):
                    year = (Run(suffix),)
                pieces.append(_linked(year, item.key))
            made.append(joined(pieces, year_delimiter))
        return joined(made, delimiter)

    # --- elements -----------------------------------------------------------------------------

    def _children(self, element: Element, cite: Cite, delimiter: str = "") -> Out:
        outs = [
            self._choose(child, cite, delimiter) if child.tag == "choose" else self._element(child, cite)
            for child in element
        ]
        runs = joined((out.runs for out in outs), delimiter)
        return Out(runs, any(out.asked for out in outs), any(out.found for out in outs))

    def _element(self, element: Element, cite: Cite) -> Out:
        match element.tag:
            case "text":
                out = self._text(element, cite)
            case "number":
                out = self._number(element, cite)
            case "date":
                out = self._date(element, cite)
            case "names":
                out = self._names(element, cite)
            case "label":
                out = self._label(element, cite)
            case "group":
                out = self._group(self._children(element, cite, element.get("delimiter", "")))
            case "choose":
                return self._choose(element, cite, "")
            case _:
                return Out()
        return replace(out, runs=self._dressed(out.runs, element)) if words(out.runs) else replace(out, runs=())

    def _group(self, out: Out) -> Out:
        """What a group or a macro says: nothing if all it asks for is missing; what says something is something found."""
        if out.asked and not out.found:
            return Out((), True, False)
        return Out(out.runs, True, True) if words(out.runs) else out

    def _text(self, element: Element, cite: Cite) -> Out:
        if (macro := element.get("macro")) is not None:
            out = self._children(self.style.macros[macro], cite) if macro in self.style.macros else Out()
            return self._group(out)
        if (term := element.get("term")) is not None:
            word = self.style.term(term, element.get("form", "long"), element.get("plural") == "true")
            return Out((Run(word, frozenset({TERM})),))
        if (value := element.get("value")) is not None:
            return Out((Run(value),))
        variable = element.get("variable", "")
        if variable in cite.substituted:
            return Out((), True, False)
        runs = self._variable(variable, element.get("form", "long"), cite)
        if words(runs):
            cite.said.append(variable)
        asked = variable != "year-suffix" or bool(words(runs))  # a letter that is not needed is nothing that is missing
        return Out(runs, asked, bool(words(runs)))

    def _variable(self, variable: str, form: str, cite: Cite) -> Runs:
        data = cite.entry.data
        work = self.works[cite.entry.key]
        match variable:
            case "citation-number":
                return (Run(str(work.number)),)
            case "year-suffix":
                cite.suffix_said = cite.suffix_said or bool(work.suffix)
                return (Run(work.suffix),) if work.suffix and not cite.auto_suffix else ()
            case "citation-label":
                return (Run(cite.entry.key),)
            case "locator":
                return (Run(_en_dashes(cite.item.locator)),) if cite.item.locator else ()
            case "first-reference-note-number":
                return (Run(str(work.first_note)),) if work.first_note else ()
            case "page" | "page-first":
                pages = str(data.get("page", ""))
                return (
                    (Run(re.split(r"[-–,]", pages)[0] if variable == "page-first" else self._pages(pages)),)
                    if pages
                    else ()
                )
            case "URL" | "DOI":
                return _address(variable, str(data.get(variable, "")))
        value = data.get(f"{variable}-short") if form == "short" else None
        value = data.get(variable) if value in {None, ""} else value
        if variable in {"event", "event-title"} and value is None:
            value = data.get("event-title") or data.get("event")
        if variable == "title-short" and value is None:
            value = data.get("title")
        if value is None or isinstance(value, dict | list):
            return ()
        return parsed(_en_dashes(str(value)) if variable in _RANGES else str(value))

    def _pages(self, pages: str) -> str:
        """A range of pages with an en dash, its second number as short as the style wants it."""
        form = self.style.root.get("page-range-format", "")
        match = re.fullmatch(r"\s*([A-Za-z]*)(\d+)\s*[-–]\s*([A-Za-z]*)(\d+)\s*", pages)
        if not match or match[1] != match[3]:
            return _en_dashes(pages)
        lead, first, _, last = match.groups()
        last = first[: len(first) - len(last)] + last if len(last) < len(first) else last
        if len(first) == len(last):
            same = next((n for n, (a, b) in enumerate(zip(first, last, strict=True)) if a != b), len(first) - 1)
            if form == "minimal":
                last = last[same:]
            elif form == "minimal-two":
                last = last[min(same, max(0, len(last) - 2)) :]
            elif form.startswith("chicago") and len(first) > 2 and int(first) % 100:
                last = str(int(last[same:])) if 0 < int(first) % 100 < 10 else last[min(same, len(last) - 2) :]
        return f"{lead}{first}{self.style.term('page-range-delimiter')}{lead if form in {'', 'expanded'} else ''}{last}"

    def _number(self, element: Element, cite: Cite) -> Out:
        variable = element.get("variable", "")
        runs = self._variable(variable, "long", cite)
        text = words(runs)
        form = element.get("form", "numeric")
        if text.isdigit():
            number = int(text)
            if form in {"ordinal", "long-ordinal"}:
                runs = (Run(self.style.ordinal(number, form == "long-ordinal")),)
            elif form == "roman":
                runs = (Run(_roman(number)),)
        return Out(runs, True, bool(text))

    def _date(self, element: Element, cite: Cite) -> Out:
        variable = element.get("variable", "")
        date = cite.entry.data.get(variable)
        if not date or variable in cite.substituted:
            return Out((), True, False)
        if cite.for_sort:
            return Out((Run(date_key(date, parts_of_date(element, self.style))),), True, True)
        suffix = ""
        if variable == "issued" and cite.auto_suffix and not cite.suffix_said:
            suffix, cite.suffix_said = self.works[cite.entry.key].suffix, True
        runs = render_date(date, element, self.style, suffix)
        return Out(runs, True, bool(words(runs)))

    def _label(self, element: Element, cite: Cite) -> Out:
        variable = element.get("variable", "")
        if variable == "locator":
            value, term = cite.item.locator, cite.item.label
        else:
            value, term = str(cite.entry.data.get(variable, "")), variable
        if not value:
            return Out((), True, False)
        plural = element.get("plural", "contextual")
        many = plural == "always" or (plural == "contextual" and bool(re.search(r"\d\s*[-–,&]\s*\d", value)))
        if variable in {"number-of-pages", "number-of-volumes"} and value.isdigit():
            many = int(value) > 1
        return Out((Run(self.style.term(term, element.get("form", "long"), many)),))

    def _names(self, element: Element, cite: Cite) -> Out:
        variables = element.get("variable", "").split()
        data = cite.entry.data
        if cite.hide_author and not cite.hidden and any(data.get(name) for name in variables):
            cite.hidden = True
            return Out((), True, True)
        present = [name for name in variables if data.get(name) and name not in cite.substituted]
        part = self.style.bibliography if cite.in_list else self.style.citation
        work = self.works[cite.entry.key]
        look = NameLook.of(element, part, self.style.root, cite.position != "first" and not cite.in_list)
        if not cite.for_sort and (not cite.in_list or present[:1] == _role(cite.entry)):
            look = self._telling(look, work, cite.in_list)
        if cite.for_sort:
            look = _for_sorting(look, cite.sort_rule)
        if cite.short_names:
            look = replace(look, form="short", sort_order="", join=look.join or "text", least=look.least or 4)
        if present == ["editor", "translator"] and data["editor"] == data["translator"]:
            present = ["editor"]
            roles = {"editor": "editortranslator"}
        else:
            roles = {}
        parts = [self._one_role(name, roles.get(name, name), element, look, cite) for name in present]
        runs = joined(parts, element.get("delimiter", look.delimiter_between))
        if words(runs):
            cite.said += present
            return Out(runs, True, True)
        return self._substitute(element, cite)

    def _telling(self, look: NameLook, work: Work, in_list: bool) -> NameLook:
        """With as many names and given names as tell a work from others; its entry in the list then has them, too."""
        look = replace(look, first=look.first + work.more_names)
        if not self.rule or not (work.with_given or self.rule != "by-cite"):
            return look
        everybody = 1 if self.rule.startswith("primary-") else _MOST_NAMES
        told = work.with_given if self.rule == "by-cite" else everybody
        if not in_list:
            work.levels = self._levels(look)
        return replace(look, levels=work.levels, told_apart=told)

    def _levels(self, look: NameLook) -> dict[tuple[str, str], int]:
        """What tells people of one family name apart, among all who are cited."""
        if look.initials not in self._known_levels:
            first_alone = self.rule.startswith("primary-")
            people = [
                name for work in self.works.values() for name in _people(work.entry)[: 1 if first_alone else None]
            ]
            whole = not self.rule.endswith("-with-initials")
            self._known_levels[look.initials] = given_levels(people, look, whole)
        return self._known_levels[look.initials]

    def _one_role(self, name: str, role: str, element: Element, look: NameLook, cite: Cite) -> Runs:
        if cite.replaced_names is not None and name in {"author", "editor", "translator"} and not cite.hidden:
            cite.hidden = True
            runs: Runs = (Run(cite.replaced_names),)
            count = len(cite.entry.data[name])
        else:
            runs, count = render_names(cite.entry.data[name], look, self.style)
            named = element.find("name")
            if named is not None and words(runs):
                runs = (Run(named.get("prefix", "")), *runs, Run(named.get("suffix", "")))
        label = element.find("label")
        if label is None or cite.for_sort:
            return runs
        plural = label.get("plural", "contextual")
        many = plural == "always" or (plural == "contextual" and count > 1)
        said: Runs = (Run(self.style.term(role, label.get("form", "long"), many)),)
        said = self._dressed(said, label) if words(said) else ()
        tags = [child.tag for child in element]
        before = "name" in tags and tags.index("label") < tags.index("name")
        return (*said, *runs) if before else (*runs, *said)

    def _substitute(self, element: Element, cite: Cite) -> Out:
        for child in self._alternatives(element.find("substitute"), cite):
            before = len(cite.said)
            if child.tag == "names" and len(child) == 0:
                inherited = _like(child, element)
                out = self._element(inherited, cite)
            else:
                out = self._element(child, cite)
            if cite.hidden and not words(out.runs):
                return Out((), True, True)  # the author has been left out on purpose
            if words(out.runs):
                used = (child.get("variable") or "").split() or cite.said[before:]
                cite.substituted = (*cite.substituted, *used)
                return replace(out, asked=True, found=True)
        return Out((), True, False)

    def _alternatives(self, substitute: Element | None, cite: Cite) -> Iterable[Element]:
        """What may stand in for names that are not there, conditions settled."""
        for child in substitute if substitute is not None else ():
            if child.tag == "choose":
                branch = next((each for each in child if each.tag == "else" or self._holds(each, cite)), None)
                yield from self._alternatives(branch, cite)
            else:
                yield child

    def _choose(self, element: Element, cite: Cite, delimiter: str) -> Out:
        """The branch that holds; what stands around it delimits what is in it too."""
        for branch in element:
            if branch.tag == "else" or self._holds(branch, cite):
                return self._children(branch, cite, delimiter)
        return Out()

    def _holds(self, branch: Element, cite: Cite) -> bool:
        data = cite.entry.data
        tests: list[bool] = []
        if kinds := branch.get("type", "").split():  # a work is of one kind: of several, any may be it
            tests.append(data.get("type") in kinds)
        for name in branch.get("variable", "").split():
            tests.append(bool(words(self._variable(name, "long", cite)) or data.get(name)))
        for name in branch.get("is-numeric", "").split():
            tests.append(bool(_NUMERIC.match(words(self._variable(name, "long", cite)))))
        for name in branch.get("is-uncertain-date", "").split():
            tests.append(bool((data.get(name) or {}).get("circa")))
        for name in branch.get("locator", "").split():
            tests.append(bool(cite.item.locator) and cite.item.label == name)
        for name in branch.get("position", "").split():
            tests.append(_stands(cite.position, name) and not cite.in_list)
        if branch.get("disambiguate") == "true":
            tests.append(self.works[cite.entry.key].apart)
        match branch.get("match", "all"):
            case "any":
                return any(tests)
            case "none":
                return not any(tests)
        return all(tests)

    def _dressed(self, runs: Runs, element: Element) -> Runs:
        """What every element can have: case, quotes, looks, affixes."""
        if element.get("strip-periods") == "true":
            runs = tuple(replace(run, text=run.text.replace(".", "")) for run in runs)
        if case := element.get("text-case"):
            runs = cased(runs, case, self.style.language)
        if element.get("quotes") == "true":
            runs = self._quoted(runs)
        runs = _looked(runs, element)
        prefix, suffix = element.get("prefix", ""), element.get("suffix", "")
        if runs and runs[0].href.startswith("https://doi.org/") and prefix.endswith("doi.org/"):
            runs = (replace(runs[0], text=prefix + runs[0].text), *runs[1:])
            prefix = ""
        made = [Run(prefix)] if prefix else []
        return (*made, *runs, *([Run(suffix)] if suffix else []))

    def _quoted(self, runs: Runs) -> Runs:
        opening, closing = self.style.term("open-quote"), self.style.term("close-quote")
        inner = (self.style.term("open-inner-quote"), self.style.term("close-inner-quote"))
        changed = tuple(replace(run, text=run.text.replace("“", inner[0]).replace("”", inner[1])) for run in runs)
        return (Run(opening), *changed, Run(closing))


# --- helpers ----------------------------------------------------------------------------------


def _looked(runs: Runs, element: Element) -> Runs:
    """Fonts that an element asks for."""
    for attribute, value, look in (
        ("font-style", "italic", "italic"), ("font-style", "oblique", "italic"), ("font-weight", "bold", "bold"),
        ("vertical-align", "sup", "sup"), ("vertical-align", "sub", "sub"), ("font-variant", "small-caps", "smallcaps"),
    ):  # fmt: skip
        if element.get(attribute) == value:
            runs = with_look(runs, look)
    if element.get("font-style") == "normal":
        runs = without_look(runs, "italic")
    return runs


def _affixed(runs: Runs, item: CiteItem) -> Runs:
    before = (*parsed(item.prefix), Run(" ")) if item.prefix else ()
    after: Runs = ()
    if item.suffix:
        gap = "" if item.suffix[0] in ",.;:" else " "
        after = (Run(gap), *parsed(item.suffix)) if gap else parsed(item.suffix)
    return (*before, *runs, *after)


def _linked(runs: Runs, key: str) -> Runs:
    return tuple(run if run.href else replace(run, href=f"#ref-{key}") for run in runs)


def _address(variable: str, value: str) -> Runs:
    """An address as a link: the text as it is, without the resolver a DOI may come with."""
    if not value:
        return ()
    if variable == "DOI":
        bare = re.sub(r"^(?:https?://(?:dx\.)?doi\.org/|doi:\s*)", "", value, flags=re.IGNORECASE)
        return (Run(bare, href=f"https://doi.org/{bare}"),)
    return (Run(value, href=value if value.startswith(("http://", "https://", "ftp://")) else ""),)


def _en_dashes(text: str) -> str:
    if re.fullmatch(r"[ivxlcdm]+\s*-+\s*[ivxlcdm]+", text):
        return re.sub(r"\s*-+\s*", "–", text)
    return re.sub(r"(?<=\d)([A-Za-z]?)\s*-{1,3}\s*(?=[A-Za-z]?\d)", r"\1–", text)


def _trimmed(runs: Runs, letters: str | None = None) -> Runs:
    """Runs that begin with none of `letters`; None for spaces."""
    while runs and not runs[0].text.strip(letters):
        runs = runs[1:]
    return (replace(runs[0], text=runs[0].text.lstrip(letters)), *runs[1:]) if runs else ()


def _collated(text: str) -> str:
    """Letters as they are sorted: without accents, case and signs."""
    folded = unicodedata.normalize("NFKD", text).casefold()
    bare = "".join(letter for letter in folded if not unicodedata.combining(letter))
    return re.sub(r"[^\w\s]", "", bare).strip()


def _year(engine: Engine, key: str) -> int | None:
    parts = (engine.works[key].entry.data.get("issued") or {}).get("date-parts") or [[]]
    return parts[0][0] if parts[0] else None


def _roman(number: int) -> str:
    said = ""
    for value, sign in _ROMAN:
        while number >= value:
            said, number = said + sign, number - value
    return said


def _stands(position: str, wanted: str) -> bool:
    """Whether a citation in `position` counts as standing in the `wanted` one."""
    implied = {
        "first": {"first"}, "subsequent": {"subsequent"}, "near-note": {"subsequent", "near-note"},
        "ibid": {"ibid", "subsequent"}, "ibid-with-locator": {"ibid-with-locator", "ibid", "subsequent"},
    }  # fmt: skip
    return wanted in implied.get(position, {"first"})


def _people(entry: Entry) -> list[Name]:
    """Whom a work is cited by: its authors, or whoever stands in for them."""
    return next((entry.data[role] for role in _role(entry)), [])


def _role(entry: Entry) -> list[str]:
    """As what those are named whom a work is cited by; empty for nobody."""
    return [role for role in ("author", "editor", "translator") if entry.data.get(role)][:1]


def _like(child: Element, names: Element) -> Element:
    """A bare `names` of a substitution, with the looks of the one it stands for."""
    looks = {
        key: value for key, value in names.attrib.items() if key not in {"prefix", "suffix"}
    }  # those come around it
    made = Element("names", {**looks, **child.attrib})
    made.extend(part for part in names if part.tag != "substitute")
    return made


def _holding(children: Sequence[Element], layout: Element) -> Element:
    """A layout with some of its children only."""
    made = Element("layout", {"delimiter": layout.get("delimiter", "")})
    made.extend(children)
    return made


def _for_sorting(look: NameLook, rule: Element | None) -> NameLook:
    """Names as works are sorted by them, as many as the key says."""
    asked: dict[str, int] = {}
    for mine, theirs in (("least", "names-min"), ("first", "names-use-first")):
        if rule is not None and rule.get(theirs, "").isdigit():
            asked[mine] = int(rule.get(theirs, ""))
    return replace(look, sort_order="all", for_sort=True, **asked)
