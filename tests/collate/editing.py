"""Editing documents as word processors do it: letters in runs of their own, plain or with changes tracked."""

from __future__ import annotations

import zipfile
from copy import deepcopy
from pathlib import Path

from lxml import etree

W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
_SPACE = "{http://www.w3.org/XML/1998/namespace}space"
_MATH = "{http://schemas.openxmlformats.org/officeDocument/2006/math}"
_NAMESPACE = W[1:-1]


class Editor:
    """One document at hand; `author` tracks what is done in that name, nobody tracks nothing."""

    def __init__(self, path: Path, author: str = "") -> None:
        self.path, self.author = path, author
        with zipfile.ZipFile(path) as archive:
            self.parts = {name: archive.read(name) for name in archive.namelist()}
        self.root = etree.fromstring(self.parts["word/document.xml"])
        self.notes = etree.fromstring(self.parts["word/footnotes.xml"]) if "word/footnotes.xml" in self.parts else None
        self.count = 90_000

    def save(self, path: Path) -> Path:
        """Write it; styles and lists as they were."""
        self.parts["word/document.xml"] = etree.tostring(
            self.root, xml_declaration=True, encoding="UTF-8", standalone=True
        )
        if self.notes is not None:
            self.parts["word/footnotes.xml"] = etree.tostring(
                self.notes, xml_declaration=True, encoding="UTF-8", standalone=True
            )
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, data in self.parts.items():
                archive.writestr(name, data)
        return path

    # --- finding ------------------------------------------------------------------------------

    def paragraph(self, words: str) -> etree._Element:
        """The one paragraph that says something."""
        roots = [self.root, *([self.notes] if self.notes is not None else [])]
        found = [one for root in roots for one in root.iter(f"{W}p") if words in text_of(one) and not _is_contents(one)]
        assert found, words
        return found[0]

    def letters(self, words: str) -> list[etree._Element]:
        """Runs that hold exactly the letters of `words`; runs are cut where they begin and end."""
        paragraph = self.paragraph(words)
        start = text_of(paragraph).index(words)
        _cut(paragraph, start)
        _cut(paragraph, start + len(words))
        found, at = [], 0
        for text in _texts(paragraph):
            said = text.text or ""
            if start <= at < start + len(words) and said:
                found.append(text.getparent())
            at += len(said)
        return found

    # --- words --------------------------------------------------------------------------------

    def replace(self, old: str, new: str) -> None:
        """Other words in the place of some: what both begin and end with is left alone."""
        head = 0
        while head < min(len(old), len(new)) and old[head] == new[head]:
            head += 1
        tail = 0
        while tail < min(len(old), len(new)) - head and old[-1 - tail] == new[-1 - tail]:
            tail += 1
        gone, added = old[head : len(old) - tail], new[head : len(new) - tail]
        runs = self.letters(old)
        paragraph = _paragraph_of(runs[0])
        start = text_of(paragraph).index(old) + head
        _cut(paragraph, start)
        _cut(paragraph, start + len(gone))
        at, before, inside = 0, None, []
        for text in _texts(paragraph):
            said = text.text or ""
            if at + len(said) <= start and said:
                before = text.getparent()
            elif start <= at < start + len(gone) and said:
                inside.append(text.getparent())
            at += len(said)
        anchor = before if before is not None else (inside[0] if inside else runs[0])
        if added:
            run = self._run(added, inside[0] if inside and before is None else anchor)
            if before is None:
                anchor.addprevious(self._tracked("ins", run))
            else:
                _outer(anchor).addnext(self._tracked("ins", run))
        for run in inside:
            self._take(run)

    def insert_after(self, words: str, new: str) -> None:
        """Words behind some."""
        self.replace(words, words + new)

    def delete(self, words: str) -> None:
        """Words taken out."""
        for run in self.letters(words):
            self._take(run)

    def look(self, words: str, name: str, on: bool = True) -> None:
        """Make some words bold (`b`), slanted (`i`) or struck through (`strike`), or no longer."""
        for run in self.letters(words):
            about = run.find(f"{W}rPr")
            if about is None:
                about = etree.Element(f"{W}rPr")
                run.insert(0, about)
            before = deepcopy(about)
            for old in about.findall(f"{W}{name}"):
                about.remove(old)
            if on:
                style = about.find(f"{W}rStyle")
                made = etree.Element(f"{W}{name}")
                style.addnext(made) if style is not None else about.insert(0, made)
            if self.author:
                changed = etree.SubElement(about, f"{W}rPrChange", self._who())
                changed.append(before)

    def link(self, words: str, address: str) -> None:
        """Make some words a link."""
        relations = etree.fromstring(self.parts["word/_rels/document.xml.rels"])
        name = f"rIdNew{self.count}"
        kind = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/hyperlink"
        etree.SubElement(relations, relations[0].tag, Id=name, Type=kind, Target=address, TargetMode="External")
        self.parts["word/_rels/document.xml.rels"] = etree.tostring(relations)
        runs = self.letters(words)
        around = etree.Element(
            f"{W}hyperlink", {"{http://schemas.openxmlformats.org/officeDocument/2006/relationships}id": name}
        )
        runs[0].addprevious(around)
        for run in runs:
            around.append(run)

    # --- paragraphs ---------------------------------------------------------------------------

    def after(self, words: str, new: str, style: str = "") -> None:
        """A new paragraph behind another, like it; or in a style of its own."""
        old = self.paragraph(words)
        about = deepcopy(old.find(f"{W}pPr"))
        if style:
            about = etree.fromstring(f'<w:pPr xmlns:w="{_NAMESPACE}"><w:pStyle w:val="{style}"/></w:pPr>')
        made = etree.Element(f"{W}p")
        if about is not None:
            for section in about.findall(f"{W}sectPr"):
                about.remove(section)
            made.append(about)
        made.append(self._tracked("ins", self._run(new)))
        if self.author:
            self._mark_end(made, "ins")
        old.addnext(made)

    def take(self, words: str) -> None:
        """Take a whole paragraph away."""
        old = self.paragraph(words)
        if not self.author:
            old.getparent().remove(old)
            return
        for run in [one for one in old.iter(f"{W}r") if one.getparent().tag != f"{W}del"]:
            self._take(run)
        for letter in list(old.iter(f"{_MATH}r")):
            around = etree.Element(f"{W}del", self._who())
            letter.addprevious(around)
            around.append(letter)
        self._mark_end(old, "del")

    def split(self, words: str) -> None:
        """A new paragraph begins with some words; the blank before them goes."""
        runs = self.letters(words)
        old = _paragraph_of(runs[0])
        made = etree.Element(f"{W}p")
        about = old.find(f"{W}pPr")
        if about is not None:
            made.append(deepcopy(about))
        here = _outer(runs[0])
        for one in [here, *here.itersiblings()]:
            made.append(one)
        old.addnext(made)
        if self.author:
            self._mark_end(old, "ins")
        last = [one for one in _texts(old) if one.text]
        if last and last[-1].text.endswith(" "):
            last[-1].text = last[-1].text[:-1]

    def join(self, words: str) -> None:
        """A paragraph goes on in the one behind it, a blank between."""
        first = self.paragraph(words)
        second = next(one for one in first.itersiblings(f"{W}p"))
        if self.author:
            first.append(self._tracked("ins", self._run(" ")))
            self._mark_end(first, "del")
            return
        first.append(self._run(" "))
        for one in list(second):
            if one.tag != f"{W}pPr":
                first.append(one)
        second.getparent().remove(second)

    def move_behind(self, words: str, others: str) -> None:
        """A paragraph stands behind another one."""
        self.paragraph(others).addnext(self.paragraph(words))

    def style(self, words: str, style: str) -> None:
        """Another style for a paragraph."""
        about = self.paragraph(words).find(f"{W}pPr")
        about.find(f"{W}pStyle").set(f"{W}val", style)

    def row_after(self, words: str, cells: list[str]) -> None:
        """A new row in a table."""
        row = self.paragraph(words).getparent().getparent()
        made = deepcopy(row)
        for cell, text in zip(made.iter(f"{W}tc"), cells, strict=True):
            paragraph = cell.find(f"{W}p")
            for one in list(paragraph):
                if one.tag != f"{W}pPr":
                    paragraph.remove(one)
            paragraph.append(self._run(text))
        row.addnext(made)

    def take_row(self, words: str) -> None:
        """Take a row away."""
        row = self.paragraph(words).getparent().getparent()
        row.getparent().remove(row)

    def comment(self, words: str, text: str, author: str = "Ada Lund") -> None:
        """A remark on some words."""
        runs = self.letters(words)
        number = str(self.count)
        self.count += 1
        _outer(runs[0]).addprevious(etree.Element(f"{W}commentRangeStart", {f"{W}id": number}))
        end = etree.Element(f"{W}commentRangeEnd", {f"{W}id": number})
        _outer(runs[-1]).addnext(end)
        called = etree.fromstring(f'<w:r xmlns:w="{_NAMESPACE}"><w:commentReference w:id="{number}"/></w:r>')
        end.addnext(called)
        about = f'w:id="{number}" w:author="{author}" w:date="2026-03-01T10:00:00Z"'
        one = f"<w:comment {about}><w:p><w:r><w:t>{text}</w:t></w:r></w:p></w:comment>"
        if "word/comments.xml" not in self.parts:
            self.parts["word/comments.xml"] = f'<w:comments xmlns:w="{_NAMESPACE}"></w:comments>'.encode()
            kind = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/comments"
            link = f'<Relationship Id="rIdComments" Type="{kind}" Target="comments.xml"/></Relationships>'
            self._in("word/_rels/document.xml.rels", "</Relationships>", link)
            content = "application/vnd.openxmlformats-officedocument.wordprocessingml.comments+xml"
            self._in(
                "[Content_Types].xml",
                "</Types>",
                f'<Override PartName="/word/comments.xml" ContentType="{content}"/></Types>',
            )
        self._in("word/comments.xml", "</w:comments>", one + "</w:comments>")

    def _in(self, part: str, end: str, new: str) -> None:
        self.parts[part] = self.parts[part].decode().replace(end, new).encode()

    # --- changes ------------------------------------------------------------------------------

    def _who(self) -> dict[str, str]:
        self.count += 1
        return {f"{W}id": str(self.count), f"{W}author": self.author, f"{W}date": "2026-03-01T10:00:00Z"}

    def _tracked(self, kind: str, run: etree._Element) -> etree._Element:
        if not self.author:
            return run
        around = etree.Element(f"{W}{kind}", self._who())
        around.append(run)
        return around

    def _take(self, run: etree._Element) -> None:
        if not self.author:
            run.getparent().remove(run)
            return
        around = etree.Element(f"{W}del", self._who())
        run.addprevious(around)
        around.append(run)
        for text in run.findall(f"{W}t"):
            text.tag = f"{W}delText"

    def _mark_end(self, paragraph: etree._Element, kind: str) -> None:
        about = paragraph.find(f"{W}pPr")
        if about is None:
            about = etree.Element(f"{W}pPr")
            paragraph.insert(0, about)
        letters = about.find(f"{W}rPr")
        if letters is None:
            letters = etree.SubElement(about, f"{W}rPr")
        letters.append(etree.Element(f"{W}{kind}", self._who()))

    def _run(self, text: str, like: etree._Element | None = None) -> etree._Element:
        made = etree.Element(f"{W}r")
        about = like.find(f"{W}rPr") if like is not None else None
        if about is not None:
            made.append(deepcopy(about))
        letters = etree.SubElement(made, f"{W}t")
        letters.set(_SPACE, "preserve")
        letters.text = text
        return made


def text_of(paragraph: etree._Element) -> str:
    """What a paragraph says."""
    return "".join(one.text or "" for one in _texts(paragraph))


def _texts(paragraph: etree._Element) -> list[etree._Element]:
    return list(paragraph.iter(f"{W}t"))


def _is_contents(paragraph: etree._Element) -> bool:
    style = paragraph.find(f"{W}pPr/{W}pStyle")
    return style is not None and style.get(f"{W}val", "").lower().startswith(("toc", "tableoffigures"))


def _paragraph_of(run: etree._Element) -> etree._Element:
    while run.tag != f"{W}p":
        run = run.getparent()
    return run


def _outer(run: etree._Element) -> etree._Element:
    """A run, or what tracks it."""
    parent = run.getparent()
    return parent if parent.tag in {f"{W}ins", f"{W}del"} else run


def _cut(paragraph: etree._Element, place: int) -> None:
    """Cut the run in which a letter stands into two."""
    at = 0
    for text in _texts(paragraph):
        said = text.text or ""
        if at < place < at + len(said):
            run = text.getparent()
            rest = deepcopy(run)
            for one in list(rest):
                if one.tag != f"{W}rPr":
                    rest.remove(one)
            letters = etree.SubElement(rest, f"{W}t")
            letters.set(_SPACE, "preserve")
            letters.text, text.text = said[place - at :], said[: place - at]
            text.set(_SPACE, "preserve")
            for one in list(text.itersiblings()):
                rest.append(one)
            run.addnext(rest)
            return
        at += len(said)
