"""What reviewers change in documents comes back into the source: exactly that, and nothing is lost or made up."""

import json
import re
import shutil
import subprocess
import sys
import unittest
import zipfile
from pathlib import Path
from typing import ClassVar

from lxml import etree

from tests.collate.editing import Editor, W
from tests.collate.edits import CASES, Case
from tests.output.docx.documents import invalid
from tests.support import FolderCase, worn
from wornpage.collate.collating import Asked, Collated, collate
from wornpage.collate.keeping import keep
from wornpage.press import press
from wornpage.source.comments import read_notes

HERE = Path(__file__).parent
SOURCE = (HERE / "page.md").read_text(encoding="utf-8")
SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="100"><rect width="200" height="100" fill="#eef"/></svg>'


def after(case: Case) -> str:
    """The source as it is to be."""
    text = SOURCE
    for old, new in case.becomes:
        assert text.count(old) == 1, old
        text = text.replace(old, new)
    return text


class CollateCase(FolderCase):
    """A page, and the document it was pressed to."""

    document: ClassVar[bytes] = b""

    def setUp(self) -> None:
        super().setUp()
        self.page = self.write("page.md", SOURCE.encode())
        self.write("plan.svg", SVG)
        if not CollateCase.document:
            press(self.page, ["docx"])
            CollateCase.document = (self.folder / "page.docx").read_bytes()
        self.write("page.docx", CollateCase.document)

    def edited(self, case: Case, author: str = "", name: str = "reviewed.docx", source: str = "page.docx") -> Path:
        editor = Editor(self.folder / source, author)
        for operation, *arguments in case.edits:
            getattr(editor, operation)(*arguments)
        return editor.save(self.folder / name)

    def collated(self, *documents: Path, **options: str) -> Collated:
        return collate(Asked(self.page, documents, **options))  # type: ignore[arg-type]

    def holds(self, name: str, case: Case, made: Collated) -> None:
        self.assertEqual(made.text, after(case), name)
        self.assertEqual(made.doubts, [], name)
        outcomes = {edit.outcome for edit in made.edits}
        self.assertEqual(outcomes, {"reported" if case.told else "merged"}, name)
        if case.told:
            self.assertEqual(made.edits[0].what, case.told, name)


class Merging(CollateCase):
    def test_every_sort_of_edit_comes_back_plain_and_tracked(self) -> None:
        for name, case in CASES.items():
            for author in ("", "Ada Lund"):
                with self.subTest(name, author=author):
                    self.holds(name, case, self.collated(self.edited(case, author)))

    def test_all_of_them_at_once_are_all_accounted_for(self) -> None:
        whole = Case([edit for name, case in CASES.items() if name in _TOGETHER for edit in case.edits])
        made = self.collated(self.edited(whole, "Ada Lund"))
        wanted = SOURCE
        for name in _TOGETHER:
            for old, new in CASES[name].becomes:
                wanted = wanted.replace(old, new)
        self.assertEqual((made.text, made.doubts), (wanted, []))
        self.assertEqual(made.count("reported"), 1)

    def test_nothing_done_is_nothing_told(self) -> None:
        made = self.collated(self.folder / "page.docx")
        self.assertEqual((made.text, made.edits, made.remarks, made.doubts), (SOURCE, [], [], []))

    def test_the_same_comes_back_from_a_real_office_program(self) -> None:
        skipped = {"a link", "the level of a heading", "a paragraph between items", "the end gone"}
        wanted = {name: case for name, case in CASES.items() if name not in skipped}
        edits = json.dumps({name: case.edits for name, case in wanted.items()})
        for tracked in ("no", "yes"):
            out = self.folder / tracked
            out.mkdir()
            command = ["/usr/bin/python3", HERE / "office.py", self.folder / "page.docx", out, tracked, edits]
            subprocess.run(command, check=True, capture_output=True, timeout=300)
            for name, case in wanted.items():
                with self.subTest(name, tracked=tracked):
                    self.holds(name, case, self.collated(out / f"{name}.docx"))

    def test_without_its_marks_a_document_is_found_by_its_text(self) -> None:
        for name in ("a word", "bold", "a cell", "parted", "a caption", "a note", "in a value"):
            path = self.edited(CASES[name])
            _without_marks(path)
            with self.subTest(name):
                made = self.collated(path)
                self.holds(name, CASES[name], made)
                self.assertIn("lost its marks", made.notices[0])

    def test_what_was_lost_with_the_source_is_had_from_the_store(self) -> None:
        path = self.edited(CASES["a word"])
        _without_source(path)
        shutil.rmtree(self.folder / ".worn", ignore_errors=True)
        with self.assertRaisesRegex(Exception, "does not hold the source"):
            self.collated(path)
        press(self.page, ["docx"])
        self.holds("a word", CASES["a word"], self.collated(path))


_TOGETHER = (
    "a word",
    "beside a value",
    "in emphasis",
    "bold",
    "a heading",
    "an item",
    "a cell",
    "a caption",
    "a note",
    "code",
    "in a value",
)


class Several(CollateCase):
    def test_the_page_may_have_changed_meanwhile(self) -> None:
        path = self.edited(CASES["a word"], "Ada Lund")
        now = (
            SOURCE.replace("March & April", "May")
            .replace("# Climate", "New words.\n\n# Climate")
            .replace("is patient", "was patient")
        )
        self.page.write_text(now, encoding="utf-8")
        made = self.collated(path)
        self.assertEqual(made.text, now.replace("is silence", "is noise"))
        self.assertEqual(now.split("\n")[made.edits[0].line - 1][made.edits[0].column - 1 :][:7], "silence")

    def test_what_both_have_changed_is_a_conflict_until_somebody_chooses(self) -> None:
        path = self.edited(CASES["a word"], "Ada Lund")
        now = SOURCE.replace("is silence", "is quiet")
        self.page.write_text(now, encoding="utf-8")
        made = self.collated(path)
        self.assertEqual(made.count("conflict"), 1)
        both = made.text.partition("<<<<<<< the page\n")[2].partition("\n>>>>>>> Ada Lund")[0].split("\n=======\n")
        self.assertIn("is quiet", both[0])
        self.assertIn("is noise", both[1])
        self.assertEqual(self.collated(path, prefer="source").text, now)
        self.assertEqual(self.collated(path, prefer="reviewer").text, SOURCE.replace("is silence", "is noise"))
        asked = subprocess.run(
            [sys.executable, "-m", "wornpage", "collate", "page.md", path, "--ask", "--json"],
            cwd=self.folder, input="?\nr\n", capture_output=True, text=True, check=True,
        )  # fmt: skip
        self.assertEqual(json.loads(asked.stdout)["counts"]["merged"], 1)
        problems = self.faults(made.text)
        self.assertIn("one is to be chosen", problems[0].what)
        self.page.write_text(SOURCE.replace("is silence", "is noise"), encoding="utf-8")
        self.assertEqual(self.collated(path).text, SOURCE.replace("is silence", "is noise"), "both did the same")

    def test_conflicts_of_several_reviewers_in_a_line_stand_together(self) -> None:
        first = self.edited(CASES["a word"], "Ada Lund", "first.docx")
        other = Case(
            [("replace", "the rest is silence", "the rest is murmur"), ("replace", "by the door", "at the door")]
        )
        second = self.edited(other, "Bea Roth", "second.docx")
        self.page.write_text(SOURCE.replace("is silence", "is quiet"), encoding="utf-8")
        made = self.collated(first, second)
        self.assertEqual(made.count("conflict"), 2)
        versions = made.text.partition("<<<<<<< the page\n")[2].partition("\n>>>>>>> Ada Lund; Bea Roth\n")[0]
        told = [re.findall("is (quiet|noise|murmur)", one) for one in versions.split("\n=======\n")]
        self.assertEqual(told, [["quiet"], ["noise"], ["murmur"]])
        self.assertEqual(versions.count("at the door"), 3, "what nobody disputes is in all of them")
        self.assertEqual(made.text.count("<<<<<<<"), 1)

    def test_a_moved_paragraph_that_the_page_has_changed_is_there_once_whoever_has_it(self) -> None:
        moved = self.edited(Case([("move_behind", "keeps her notes", "Nothing lasts")]))
        now = SOURCE.replace("keeps her notes", "keeps his notes")
        self.page.write_text(now, encoding="utf-8")
        self.assertEqual(self.collated(moved, prefer="source").text, now)
        made = self.collated(moved, prefer="reviewer").text
        self.assertEqual((made.count("The caretaker keeps"), made.endswith("her notes.\n")), (1, True))

    def test_what_cannot_be_moved_here_is_told(self) -> None:
        editor = Editor(self.folder / "page.docx")
        editor.move_behind("The reading room, by day", "Nothing lasts")
        inner = editor.paragraph("Even on Sundays")
        inner.find(f"{W}pPr/{W}numPr/{W}ilvl").set(f"{W}val", "0")
        made = self.collated(editor.save(self.folder / "reviewed.docx"))
        self.assertEqual((made.text, made.doubts), (SOURCE, []))
        self.assertEqual({edit.what for edit in made.edits}, {"caption moved", "item moved in or out"})

    def test_several_reviewers_and_one_of_them_alone(self) -> None:
        first = self.edited(CASES["a word"], "Ada Lund", "first.docx")
        second = self.edited(CASES["an item"], "Bea Roth", "second.docx")
        self.assertEqual(
            self.collated(first, second).text, after(CASES["a word"]).replace("every evening", "each night")
        )
        both = self.edited(CASES["a note"], "Bea Roth", "both.docx", "first.docx")
        self.assertEqual(self.collated(both, only="Bea Roth").text, after(CASES["a note"]))
        with self.assertRaisesRegex(Exception, "there are: Ada Lund, Bea Roth"):
            self.collated(both, only="Eva")

    def test_comments_go_beside_the_page_once(self) -> None:
        path = self.edited(Case([("comment", "rises from the river", "Which river?"), ("comment", "800", "So much?")]))
        done = worn("collate", "page.md", path, "--write", folder=self.folder)
        self.assertEqual(done.returncode, 0, done.stderr)
        worn("collate", "page.md", path, "--write", folder=self.folder)
        notes = read_notes(self.page)
        self.assertEqual([(one.author, one.text, one.quote, one.line) for one in notes], [
            ("Ada Lund", "Which river?", "rises from the river", 15), ("Ada Lund", "So much?", "800", 31),
        ])  # fmt: skip
        self.assertEqual(self.page.read_text(encoding="utf-8"), SOURCE)
        listed = worn("check", "page.md", "--open-comments", folder=self.folder).stdout
        self.assertIn("page.md:15:1: warning: Ada Lund on “rises from the river”: Which river?", listed)

    def test_open_comments_go_out_again_and_come_back_answered_and_closed(self) -> None:
        path = self.edited(Case([("comment", "rises from the river", "Which river?"), ("comment", "800", "So much?")]))
        keep(self.page, self.collated(path))
        self.page.write_text(
            SOURCE.replace("# Climate", "More.\n\n# Climate").replace("the river", "that river"), encoding="utf-8"
        )
        press(self.page, ["docx"])
        document = self.folder / "page.docx"
        self.assertEqual(invalid(document), [])
        made = self.collated(document)
        self.assertEqual([(one.text, one.line) for one in made.remarks], [("Which river?", 17), ("So much?", 33)])
        self.assertEqual([one.quote for one in made.remarks], ["rises from that river", "800"])
        editor = Editor(document)
        extended = editor.parts["word/commentsExtended.xml"].decode()
        answer = '<w:comment w:id="77" w:author="Bea Roth" w:date="2026-03-02T10:00:00Z"><w:p w14:paraId="30000000"><w:r><w:t>The Millpond.</w:t></w:r></w:p></w:comment>'
        editor._in("word/comments.xml", "</w:comments>", f"{answer}</w:comments>")
        added = '<w15:commentEx w15:paraId="30000000" w15:paraIdParent="20000001" w15:done="0"/></w15:commentsEx>'
        editor._in("word/commentsExtended.xml", "</w15:commentsEx>", added)
        editor.parts["word/commentsExtended.xml"] = editor.parts["word/commentsExtended.xml"].replace(
            b'w15:paraId="20000002" w15:done="0"', b'w15:paraId="20000002" w15:done="1"'
        )
        self.assertIn('w15:paraId="20000002"', extended)
        keep(self.page, self.collated(editor.save(self.folder / "answered.docx")))
        notes = read_notes(self.page)
        self.assertEqual(
            [(one.done, [answer["text"] for answer in one.answers]) for one in notes],
            [(False, ["The Millpond."]), (True, [])],
        )
        press(self.page, ["docx"])
        self.assertEqual([one.text for one in self.collated(document).remarks], ["Which river?", "The Millpond."])


class Command(CollateCase):
    def test_it_writes_when_told_and_keeps_what_was(self) -> None:
        raw = SOURCE.replace("\n", "\r\n").encode()
        self.page.write_bytes(raw)
        path = self.edited(CASES["a word"], "Ada Lund")
        dry = worn("collate", "page.md", path, folder=self.folder)
        self.assertIn("1 edit: 1 merged; 0 comments", dry.stdout + dry.stderr)
        self.assertEqual(self.page.read_bytes(), raw)
        told = json.loads(worn("collate", "page.md", path, "--json", "--write", folder=self.folder).stdout)
        self.assertEqual((told["counts"], told["written"]), ({"merged": 1, "reported": 0, "conflict": 0}, True))
        self.assertEqual(self.page.read_bytes(), after(CASES["a word"]).replace("\n", "\r\n").encode())
        self.assertEqual((self.folder / "page.before-collating.md").read_bytes(), raw)

    def test_what_is_no_document_is_told(self) -> None:
        self.write("x.docx", b"no")
        for name in ("x.docx", "absent.docx", "page.md"):
            done = worn("collate", "page.md", name, folder=self.folder)
            self.assertEqual(done.returncode, 2)
            self.assertNotIn("fault of Worn Page", done.stderr)


def _without_marks(path: Path) -> None:
    """As other programs save it: no bookmarks."""
    _change(
        path,
        lambda root: [one.getparent().remove(one) for one in list(root.iter(f"{W}bookmarkStart", f"{W}bookmarkEnd"))],
    )


def _without_source(path: Path) -> None:
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist() if not name.startswith("customXml")}
    parts["word/_rels/document.xml.rels"] = re.sub(
        rb"<Relationship [^>]*customXml[^>]*/>", b"", parts["word/_rels/document.xml.rels"]
    )
    _packed(path, parts)


def _change(path: Path, change) -> None:
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    for name in ("word/document.xml", "word/footnotes.xml"):
        root = etree.fromstring(parts[name])
        change(root)
        parts[name] = etree.tostring(root)
    _packed(path, parts)


def _packed(path: Path, parts: dict[str, bytes]) -> None:
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in parts.items():
            archive.writestr(name, data)


if __name__ == "__main__":
    unittest.main()
