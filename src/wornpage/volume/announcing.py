"""What a site tells machines: how it is cited, where its pages are, what is new."""

from __future__ import annotations

from html import escape
from urllib.parse import quote

from wornpage.output.site import Site
from wornpage.tree import nodes as n


def citation_file(title: str, head: n.TitleBlock, date: str, address: str) -> bytes:
    """How the work is cited, as a `CITATION.cff` (Citation File Format 1.2)."""
    lines = ["cff-version: 1.2.0", "message: Please cite this work as below.", f"title: {_quoted(title)}", "authors:"]
    for person in head.authors:
        given, _, family = person.name.rpartition(" ")
        lines += [f"  - family-names: {_quoted(family)}", *([f"    given-names: {_quoted(given)}"] if given else [])]
        lines += [f"    affiliation: {_quoted(', '.join(person.affiliations))}"] if person.affiliations else []
        lines += [f"    email: {_quoted(person.email)}"] if person.email else []
    lines += [f"date-released: {date}"] if _is_day(date) else []
    lines += [f"url: {_quoted(address)}"] if address else []
    return ("\n".join(lines) + "\n").encode("utf-8", "replace")


def site_map(site: Site) -> bytes:
    """The pages, for machines that look for them."""
    lines = "".join(f"<url><loc>{escape(place)}</loc></url>\n" for place in _places(site))
    text = f'<?xml version="1.0" encoding="UTF-8"?>\n<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">\n{lines}</urlset>\n'
    return text.encode()


def feed(site: Site, head: n.TitleBlock, date: str) -> bytes:
    """The pages as an Atom feed; all of the day of the work, since pages have none of their own there."""
    when = f"{date if _is_day(date) else '2000-01-01'}T00:00:00Z"
    root = site.address.rstrip("/") + "/"
    people = (
        "".join(f"<author><name>{escape(one.name)}</name></author>" for one in head.authors)
        or "<author><name>?</name></author>"
    )
    entries = "".join(
        f'<entry><title>{escape(f"{page.number} {page.plain}".strip())}</title><link href="{escape(root + quote(page.address))}"/>'
        f"<id>{escape(root + quote(page.address))}</id><updated>{when}</updated></entry>\n"
        for page in site.pages
    )
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>\n<feed xmlns="http://www.w3.org/2005/Atom">\n<title>{escape(site.title)}</title>'
        f'<link href="{escape(root)}"/><link rel="self" href="{escape(root)}feed.xml"/><id>{escape(root)}</id><updated>{when}</updated>{people}\n{entries}</feed>\n'
    ).encode("utf-8", "replace")


def _places(site: Site) -> list[str]:
    root = site.address.rstrip("/") + "/"
    places = dict.fromkeys([site.start, *(page.address for page in site.pages)])
    return [root + quote(place) for place in places]


def _is_day(date: str) -> bool:
    return len(date) == 10 and date[4] == date[7] == "-" and date.replace("-", "").isdigit()


def _quoted(words: str) -> str:
    return '"' + words.replace("\\", "\\\\").replace('"', '\\"') + '"'
