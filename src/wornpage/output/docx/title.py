"""The head of a document: title, authors with their places, abstract, keywords."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wornpage.output.docx.xml import Look
from wornpage.tree import nodes as n

if TYPE_CHECKING:
    from wornpage.output.docx.writer import DocumentWriter


class Titles:
    """Writes the head; what a template has a place for stands there instead."""

    def __init__(self, writer: DocumentWriter) -> None:
        self.writer = writer
        self.head, self.filled = writer.page.head, writer.dress.filled
        self.has_own_sheet = writer.looks.sheets.title_alone and bool(self.head.title)
        """Whether the text begins on a sheet after it."""

    def written(self) -> list[str]:
        """All of it."""
        writer, head, running = self.writer, self.head, self.writer.running
        if not head.title:
            return []
        made: list[str] = []
        if "title" not in self.filled:
            made += writer.plain(running.block(head.title), "Title")
        if head.subtitle and "subtitle" not in self.filled:
            made += writer.plain(running.block(head.subtitle), "Subtitle")
        if head.authors and "authors" not in self.filled:
            made += self.authors()
        made += self.particulars()
        made += self.abstract()
        return made

    def authors(self) -> list[str]:
        """Names on one line; numbers say who belongs where, and a star who is to be written to."""
        writer, running, raised = self.writer, self.writer.running, Look(height="superscript")
        places = list(dict.fromkeys(place for person in self.head.authors for place in person.affiliations))
        line = ""
        for at, person in enumerate(self.head.authors):
            numbers = [str(places.index(place) + 1) for place in person.affiliations] if len(places) > 1 else []
            marks = ",".join([*numbers, *(["*"] if person.corresponding else [])])
            line += running.text((", " if at else "") + person.name) + running.text(marks, raised)
        made = writer.plain(line, "Author")
        for number, place in enumerate(places, 1):
            mark = running.text(str(number), raised) if len(places) > 1 else ""
            made += writer.plain(mark + running.text(place), "Affiliation")
        for person in self.head.authors:
            if person.email:
                made += writer.plain(self.address(person), "Affiliation")
        return made

    def address(self, person: n.Person) -> str:
        """Where somebody can be written to."""
        running, writer = self.writer.running, self.writer
        before = (
            f"* {writer.language.corresponding}: "
            if person.corresponding
            else f"{person.name}: "
            if len(self.head.authors) > 1
            else ""
        )
        look = Look(style=writer.ids["Hyperlink"])
        link = running.relations.address(f"mailto:{person.email}")
        return (
            running.text(before)
            + f'<w:hyperlink r:id="{link}" w:history="1">{running.text(person.email, look)}</w:hyperlink>'
        )

    def particulars(self) -> list[str]:
        """The date; on a sheet of its own, what runs along the head and how many words there are."""
        writer, running = self.writer, self.writer.running
        made: list[str] = []
        if self.has_own_sheet:
            title = writer.dress.running_title
            if title:
                word = running.text(f"{writer.language.running_title}\u2002", Look(bold=True))
                made += writer.plain(word + running.text(title), "Affiliation")
            made += writer.plain(running.text(writer.language.length(writer.page.words)), "Affiliation")
        if self.head.date and "date" not in self.filled:
            made += writer.plain(running.text(self.head.date), "Date")
        return made

    def abstract(self) -> list[str]:
        """The abstract and the keywords."""
        writer, running = self.writer, self.writer.running
        made: list[str] = []
        if self.head.abstract and "abstract" not in self.filled:
            writer.new_sheet = self.has_own_sheet
            made += writer.plain(running.text(writer.language.abstract), "AbstractTitle")
            outer, writer.style = writer.style, "Abstract"
            made += writer.blocks(self.head.abstract)
            writer.style = outer
        if self.head.keywords and "keywords" not in self.filled:
            word = running.text(f"{writer.language.keywords}\u2002", Look(bold=True))
            separated = [
                running.text(", " if at else "") + running.words(words) for at, words in enumerate(self.head.keywords)
            ]
            made += writer.plain(word + "".join(separated), "Keywords")
        return made
