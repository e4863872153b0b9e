"""Made-up decks, pressed: each word once, where it belongs, and nothing else."""

from __future__ import annotations

import re
import zipfile
from collections import Counter
from pathlib import Path

from tests.output.deck.making import DeckMaker
from tests.output.docx.documents import invalid
from tests.support import FolderCase
from wornpage.press import press

SEEDS = range(300, 312)


class MadeDecks(FolderCase):
    """Blocks within blocks within slides, steps, columns and what is said."""

    def made(self, seed: int) -> tuple[DeckMaker, str, Path, Path]:
        """A deck, its page, and what was written of it."""
        maker = DeckMaker(seed)
        text = maker.page()
        path = self.write(f"deck{seed}.md", text)
        told = [one for one in press(path, ["slides", "pptx"]).warnings if "this slide is" not in str(one)]
        self.assertEqual(told, [])
        return maker, text, path.with_suffix(".slides.html"), path.with_suffix(".pptx")

    def test_each_word_is_there_once(self) -> None:
        for seed in SEEDS:
            with self.subTest(seed=seed):
                maker, text, slides, shown = self.made(seed)
                body = slides.read_text().partition("<body")[2].partition("<script type")[0]
                ids = Counter(re.findall(r'\sid="([^"]*)"', body))
                self.assertEqual([one for one, count in ids.items() if count > 1], [])
                self.assertLessEqual(set(maker.titles), set(words(body)))
                self.compare(maker, Counter(maker.seen + maker.said), words(body))
                again = 'pick-out="1 then' in text  # a presentation has a slide for each turn
                self.compare(maker, Counter(maker.seen), words(parts(shown, "slides/slide")), again)
                self.compare(maker, Counter(maker.said), words(parts(shown, "notesSlides/notesSlide")), again)
        self.assertEqual(invalid(shown), [])

    def compare(self, maker: DeckMaker, wanted: Counter[str], found: Counter[str], again: bool = False) -> None:
        """Titles may stand more than once: in lists of contents, and where a slide goes on."""
        titles = set(maker.titles)
        rest = {word: 1 if again else count for word, count in found.items() if word not in titles}
        self.assertEqual(rest, dict(wanted))


def words(source: str) -> Counter[str]:
    """The made-up words of something, marks taken away."""
    return Counter(re.findall(r"w\d{3}x", re.sub(r"<[^>]+>", "", source)))


def parts(path: Path, kind: str) -> str:
    """Parts of a presentation, as a program reads them that knows no formulas."""
    with zipfile.ZipFile(path) as archive:
        names = [name for name in archive.namelist() if re.fullmatch(rf"ppt/{kind}\d+\.xml", name)]
        source = " ".join(archive.read(name).decode() for name in names)
    return re.sub(r"(?s)<mc:Choice.*?</mc:Choice>", "", source)
