"""A cover for a book that has none of its own: its title and authors, drawn."""

from __future__ import annotations

from html import escape
from textwrap import wrap

from wornpage.tree import nodes as n
from wornpage.tree.walk import words_of


def drawn_cover(page: n.Composed) -> bytes:
    """The cover as SVG."""
    title = wrap(page.plain_title, 18)[:6] or [""]
    size = 92 if len(title) < 4 else 74
    lines = [_line(text, 380 + at * size * 1.2, size, "600") for at, text in enumerate(title)]
    below = 400 + len(title) * size * 1.2
    lines += [
        _line(text, below + at * 56, 42, "400") for at, text in enumerate(wrap(words_of(page.head.subtitle), 38)[:3])
    ]
    people = [person.name for person in page.head.authors][:6]
    lines += [_line(name, 1480 - (len(people) - 1 - at) * 62, 44, "400") for at, name in enumerate(people)]
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1200 1600" width="1200" height="1600">'
        '<rect width="1200" height="1600" fill="#f3efe6"/><rect x="90" y="150" width="10" height="1330" fill="#1c5a63"/>'
        f'<g font-family="serif" fill="#23262b">{"".join(lines)}</g></svg>'
    ).encode()


def _line(text: str, height: float, size: float, weight: str) -> str:
    return f'<text x="150" y="{height:.0f}" font-size="{size}" font-weight="{weight}">{escape(text)}</text>'
