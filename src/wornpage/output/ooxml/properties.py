"""What file managers and readers' aids ask a file for: its title, who wrote it, its keywords, its language."""

from __future__ import annotations

from wornpage.output.ooxml.xml import HEAD, escaped
from wornpage.tree import nodes as n
from wornpage.tree.walk import words_of

NAME = "docProps/core.xml"
"""The part that says it."""
LEAD = "http://schemas.openxmlformats.org/package/2006/relationships/metadata/core-properties"
TYPE = "application/vnd.openxmlformats-package.core-properties+xml"


def properties(title: str, head: n.TitleBlock, language: str) -> str:
    """The part; no times, so that the same page gives the same file."""
    authors = "; ".join(person.name for person in head.authors)
    keywords = ", ".join(words_of(words) for words in head.keywords)
    return (
        f'{HEAD}<cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties" '
        'xmlns:dc="http://purl.org/dc/elements/1.1/">'
        f"<dc:title>{escaped(title)}</dc:title><dc:creator>{escaped(authors)}</dc:creator>"
        f"<cp:keywords>{escaped(keywords)}</cp:keywords><dc:language>{escaped(language)}</dc:language></cp:coreProperties>"
    )
