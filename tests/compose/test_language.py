"""Languages of print: each says everything, and says it whole."""

import datetime
import string
import unittest

import msgspec

from tests.support import FolderCase
from wornpage.compose.language import TABLE, Language, language_of, month_of, write_date, write_words

ENGLISH = language_of("en")
DAY = datetime.date(2026, 3, 5)


def holes(text: str) -> set[str]:
    return {name for _, name, _, _ in string.Formatter().parse(text) if name}


class Languages(unittest.TestCase):
    def test_each_says_everything_and_keeps_what_is_put_into_it(self) -> None:
        for code in TABLE:
            with self.subTest(code):
                language = language_of(code)
                self.assertEqual(language.code, code)
                self.assertEqual(set(language.words), set(ENGLISH.words))
                for field in msgspec.structs.fields(Language):
                    here, there = getattr(language, field.name), getattr(ENGLISH, field.name)
                    if isinstance(here, str):
                        self.assertTrue(here)
                        self.assertEqual(holes(here), holes(there), field.name)
                for name, words in language.words.items():
                    self.assertEqual(holes(words), holes(ENGLISH.words[name]), name)

    def test_days_months_and_numbers_in_words(self) -> None:
        said = {
            code: (write_date(DAY, one), month_of(DAY, one), write_words(21, one))
            for code in TABLE
            if (one := language_of(code))
        }
        self.assertEqual(said["en"], ("5 March 2026", "March", "twenty-one"))
        self.assertEqual(said["de"], ("5. März 2026", "März", "einundzwanzig"))
        self.assertEqual(said["pt"], ("5 de março de 2026", "março", "vinte e um"))
        self.assertEqual(len({words for _, _, words in said.values()}), len(TABLE))

    def test_a_tag_goes_by_its_beginning_and_what_is_unknown_is_english(self) -> None:
        self.assertIs(language_of("pt-BR"), language_of("pt"))
        self.assertIs(language_of("tlh"), ENGLISH)


class Pages(FolderCase):
    def test_what_the_program_says_in_a_page_is_in_its_language(self) -> None:
        code = "import matplotlib.pyplot as plt\nplt.plot([1])\nfor i in range(1500): print(i)\n"
        page = f"---\nlanguage: de\n---\n\n```python run #a max-lines=200\n{code}\n```\n\n```python run #b\nimport pandas as pd\npd.DataFrame({{'n': range(3300)}})\n```\n"
        html = self.html(page)
        for words in ("Abbildung aus dem Abschnitt a", "1.300 weitere Zeilen", "weitere Zeilen</"):
            self.assertIn(words, html)
        self.assertNotIn("Figure drawn", html)
        self.assertEqual(
            [language_of(code).count(1_234_567) for code in ("en", "de", "sv")],
            ["1,234,567", "1.234.567", "1\u00a0234\u00a0567"],
        )


class RightToLeft(FolderCase):
    def test_the_page_and_its_record_are_in_its_language(self) -> None:
        html = self.html(
            "---\nlanguage: he\npress: {html: {colophon: yes}}\n---\n\n# אחת\n\n{= 21 as words}\n\n```python run #a\n1\n```\n"
        )
        self.assertIn('<html lang="he" dir="rtl">', html)
        for words in ("עשרים ואחת", "קולופון", "הופק באמצעות"):
            self.assertIn(words, html)


if __name__ == "__main__":
    unittest.main()
