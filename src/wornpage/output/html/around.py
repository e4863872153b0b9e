"""What stands around a page of a volume: contents of the whole, tools, ways to the neighbours, what machines are told."""

from __future__ import annotations

import json
from collections.abc import Callable
from html import escape
from importlib.resources import files
from typing import Any
from urllib.parse import quote

from wornpage.output.site import Around, SitePage
from wornpage.tree import nodes as n
from wornpage.tree.language import Language
from wornpage.tree.walk import words_of

Inline = Callable[[n.Inlines], str]


def pieces_around(around: Around, language: Language, sections: str, said: dict[str, Any]) -> dict[str, str]:
    """The pieces of the frame that a page by itself has not; `sections` are its own contents, `said` is what `told` has."""
    made = _Pieces(around, language, sections)
    return {
        "contents": made.contents(),
        "volume_tools": made.tools(),
        "volume_ways": made.ways(),
        "volume_head": made.head(said),
        "volume_script": f"<script>{_file('volume.js')}</script>",
    }


def volume_style() -> str:
    """The style sheet of what stands around pages."""
    return _file("volume.css")


def _file(name: str) -> str:
    return (files("wornpage.output.html") / name).read_text(encoding="utf-8").strip()


class _Pieces:
    """Writes them for one page."""

    def __init__(self, around: Around, language: Language, sections: str) -> None:
        self.around, self.site, self.words, self.sections = around, around.site, language.volume, sections
        self.language = language

    def link(self, page: SitePage) -> str:
        """A page's title as a link to it; of the page itself, to its top."""
        here = page.key == self.around.key
        target = "#text" if here else self.around.to_page(page.key)
        current = ' aria-current="page"' if here else ""
        return f'<a href="{escape(target)}"{current}>{self.called(page)}</a>'

    def called(self, page: SitePage) -> str:
        """Number and title, which are the same on every page."""
        known: dict[str, str] = self.site.__dict__.setdefault("called", {})
        if page.key not in known:
            number = f'<span class="number">{escape(page.number)}</span>' if page.number else ""
            known[page.key] = number + page.html
        return known[page.key]

    # --- contents -----------------------------------------------------------------------------

    def contents(self) -> str:
        """All pages in their parts; of this one the sections too. Of very many pages those near this one."""
        out: list[str] = []
        part, cut = -1, False
        for place, page in enumerate(self.site.pages):
            if page.part != part:
                out.append("</ol></details></li>" if part >= 0 else "")
                part, cut = page.part, False
                out.append(self.part(part) if part >= 0 else "")
            if not self.is_shown(place, page):
                out.append("" if cut else f'<li><a href="{escape(self.around.to(self.site.start))}">…</a></li>')
                cut = True
                continue
            cut = False
            sections = self.sections if place == self.around.place else ""
            out.append(f"<li>{self.link(page)}{sections}</li>")
        out.append("</ol></details></li>" if part >= 0 else "")
        return f'<ol class="pages">{"".join(out)}</ol>'

    def is_shown(self, place: int, page: SitePage) -> bool:
        """Whether the contents beside a page name another: all do, unless that would make every page long."""
        if len(self.site.pages) <= _MANY:
            return True
        own = self.around.own
        return own is not None and page.part == own.part and abs(place - self.around.place) <= _NEAR

    def part(self, place: int) -> str:
        """The head of a part; folded where the page stands elsewhere, unless there are few pages in all."""
        number, title = self.site.parts[place]
        own = self.around.own
        opens = own is None or own.part == place or len(self.site.pages) <= _FEW
        shown = f'<span class="number">{escape(number)}</span>' if number else ""
        return f'<li class="part"><details{" open" if opens else ""}><summary>{shown}{escape(title)}</summary><ol>'

    # --- tools and ways -----------------------------------------------------------------------

    def tools(self) -> str:
        """To the front page, the search, light or dark, what can be taken along."""
        own, words = self.around.own, self.words
        search = (
            f'<button type="button" class="find" hidden data-index="{escape(self.around.to(self.site.search))}" '
            f'data-root="{escape(self.around.root)}" aria-label="{escape(words["find"])}"><span>{escape(words["search"])}</span><kbd>/</kbd></button>'
            if self.site.search
            else ""
        )
        downloads = "".join(
            f'<a href="{escape(self.around.to(address))}" download>{escape(name)}</a>'
            for name, address in (own.downloads if own is not None else ())
        )
        told = {name: words[name] for name in ("find", "none", "close", "copied")}
        return (
            f'<header class="tools" data-words="{escape(json.dumps(told, ensure_ascii=False))}">'
            f'<a class="home" href="{escape(self.around.to(self.site.start))}">{escape(self.site.title)}</a>'
            f'<span class="gap"></span>{downloads}{search}'
            f'<button type="button" class="look" hidden aria-label="{escape(words["look"])}" title="{escape(words["look"])}">◐</button></header>'
        )

    def ways(self) -> str:
        """To the page before and the one behind."""
        pages, place = self.site.pages, self.around.place
        before = pages[place - 1] if place > 0 else None
        behind = pages[place + 1] if place + 1 < len(pages) else None
        made = ""
        for page, name in ((before, "previous"), (behind, "next")):
            if page is not None:
                made += (
                    f'<a class="{name}" rel="{"prev" if name == "previous" else "next"}" href="{escape(self.around.to_page(page.key))}">'
                    f"<small>{escape(self.words[name])}</small>{self.called(page)}</a>"
                )
        label = f"{self.words['previous']}, {self.words['next']}"
        return f'<nav class="ways" aria-label="{escape(label)}">{made}</nav>' if made else ""

    # --- what machines are told ---------------------------------------------------------------

    def head(self, said: dict[str, Any]) -> str:
        """Who wrote what, where it is published, and what stands before and behind."""
        own, site = self.around.own, self.site
        title = own.plain if own is not None else site.title
        names = [("DC.title", title), ("citation_title", title)]
        names += [(name, person) for person in said["authors"] for name in ("DC.creator", "citation_author")]
        names += [("DC.date", said["date"]), ("citation_publication_date", said["date"])] if said["date"] else []
        names += [("citation_inbook_title", site.title)] if own is not None else []
        names += [("DC.language", self.language.code)]
        made = [f'<meta name="{name}" content="{escape(value)}">' for name, value in names]
        if site.address:
            address = site.address.rstrip("/") + "/" + quote(self.around.address)
            made.append(f'<link rel="canonical" href="{escape(address)}">')
            made.append(
                f'<link rel="alternate" type="application/atom+xml" href="{escape(self.around.to("feed.xml"))}">'
            )
            cards = [("og:title", title), ("og:type", "article"), ("og:url", address), ("og:site_name", site.title)]
            cards += [("og:description", said["summary"])] if said["summary"] else []
            made += [f'<meta property="{name}" content="{escape(value)}">' for name, value in cards]
        return "\n".join(made)


def told(head: n.TitleBlock) -> dict[str, Any]:
    """What machines are told of a page, as plain data."""
    return {"authors": [one.name for one in head.authors], "date": head.date, "summary": _first_words(head.abstract)}


def sections_of(entries: tuple[n.ContentsEntry, ...], inlines: Inline) -> str:
    """The sections of a page, down to the second level, as they stand in the contents of the whole."""
    made, depth = "", 0
    for entry in entries:
        level = min(entry.level, 2, depth + 1)
        made += "<ol>" if level > depth else "</li>" + "</ol></li>" * (depth - level)
        depth = level
        number = f'<span class="number">{escape(entry.number)}</span>' if entry.number else ""
        made += f'<li><a href="#{escape(entry.label)}">{number}{inlines(entry.children)}</a>'
    return made + "</li></ol>" * depth


def _first_words(abstract: n.Blocks) -> str:
    """The beginning of an abstract, for cards."""
    words = " ".join(words_of(abstract).split())
    return words if len(words) <= _CARD else words[:_CARD].rsplit(" ", 1)[0] + " …"


_CARD = 200
_FEW, _MANY, _NEAR = 40, 250, 40
"""Pages: so few that no part is folded; so many that those far away are not named beside each; how near is near."""


class Beside:
    """What stands beside headings and captions: the address of the place, its source, a way to report something."""

    def __init__(self, around: Around, language: Language) -> None:
        self.around, self.words = around, language.volume
        self.page: SitePage | None = around.own

    def of(self, label: str, line: int, said: str) -> str:
        """For what has a label and was written in a line of the page's own file; `said` is what it is called."""
        if self.page is None:
            return ""
        site, page = self.around.site, self.page
        here = f'<a class="here" href="#{escape(label)}" aria-label="{escape(self.words["address"])}" title="{escape(self.words["address"])}">#</a>'
        if site.source_link and line:
            target = site.source_link.replace("{path}", quote(page.path)).replace("{line}", str(line))
            here += f'<a class="source" href="{escape(target)}" aria-label="{escape(self.words["source"])}" title="{escape(self.words["source"])}">{{}}</a>'
        if site.report_link:
            here += f'<a class="report" href="{escape(self.report(label, said))}" data-link="{escape(site.report_link)}" rel="nofollow" aria-label="{escape(self.words["report"])}" title="{escape(self.words["report"])}">!</a>'
        return f'<span class="beside">{here}</span>'

    def report(self, label: str, said: str) -> str:
        """The address for a report, filled in with the place."""
        page = self.page
        assert page is not None
        edition = f" ({page.edition})" if page.edition else ""
        place = f"{page.path}#{label}"
        values = {
            "title": f"{said or page.plain}{edition}",
            "body": f"{page.plain}{edition}\n{place}\n{said}\n",
            "page": page.path,
            "place": place,
            "words": "",
        }
        made = self.around.site.report_link
        for name, value in values.items():
            made = made.replace(f"{{{name}}}", quote(value, safe=""))
        return made
