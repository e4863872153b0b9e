"""The law on made-up pages in several languages: what a partial run publishes is byte for byte what a full run would."""

import random
import shutil
from pathlib import Path
from tempfile import TemporaryDirectory


class MadeUp:
    """To be mixed into a test case that presses pages."""

    SEEDS = 0
    """How many pages are tried; `made` gives a chunk, `pressed` presses them."""

    def test_made_up_pages(self) -> None:
        for seed in range(self.SEEDS):
            with self.subTest(seed), TemporaryDirectory() as place:
                self.attempt(random.Random(seed), Path(place))

    def attempt(self, chance: random.Random, place: Path) -> None:
        """One page and four edits of it."""
        kept = place / "kept" / "it"
        (kept / "sub").mkdir(parents=True)
        chunks = [self.made(chance, f"c{number}") for number in range(chance.randint(3, 7))]
        for number in range(5):
            clean = place / f"clean{number}" / "it"
            shutil.copytree(kept, clean, ignore=shutil.ignore_patterns(".worn", "p.*"))
            self.pressed(*chunks, folder=kept)
            made = self.html.read_bytes()
            self.pressed(*chunks, folder=clean)
            self.assertEqual(made, self.html.read_bytes(), "\n\n".join((f"step {number}", *chunks)))
            at = chance.randrange(len(chunks))
            chunks[at] = self.made(chance, f"c{at}")
