"""Any program as a language: what it prints, draws and complains of, and when it runs again."""

import unittest

from tests.languages.test_bash import Pages, chunk
from wornpage.press import PressingFailed, press
from wornpage.tree.problem import PageError

AWK = 'awk: {command: "awk -f {file} rooms.csv", suffix: .awk}'
NODE = 'node: {command: "node -", comment: "//"}'


class Programs(Pages):
    HEAD = f"---\ntitle: t\ngiven: {{branch: Harrow}}\nlanguages:\n  {AWK}\n  {NODE}\n---\n\n"

    def setUp(self) -> None:
        super().setUp()
        self.write("rooms.csv", "a,3\nb,4\n")

    def test_each_gets_its_chunk_and_runs_again_with_what_it_read(self) -> None:
        chunks = [
            chunk("a", 'BEGIN { FS = "," }', "{ s += $2 }", 'END { print "sum", s }', language="awk"),
            chunk("n", "console.log([1, 2].map(x => x * 2), process.env.GIVEN_BRANCH);", "console.error('careful');", language="node"),
            chunk("f", 'require("fs").writeFileSync("out.json", require("fs").readFileSync("rooms.csv"));', language="node"),
        ]  # fmt: skip
        self.pressed(*chunks)
        self.assertEqual([one.strip() for one in self.shown()], ["sum 7", "[ 2, 4 ] Harrow", "careful"])
        self.assertEqual(self.pressed(*chunks, "Words."), [])
        self.write("rooms.csv", "a,3\nb,5\n")
        self.assertEqual(self.pressed(*chunks), ["a", "f"])
        self.assertEqual((self.folder / "out.json").read_text(), "a,3\nb,5\n")
        self.pressed(*chunks)  # a file that was there before, and is written, may have been read
        page = self.folder / "p.md"
        self.assertEqual([one.outcome for one in press(page, given={"branch": "Quay"}).chunks], ["reused", "ran", "reused"])  # fmt: skip

    def test_pictures_that_it_writes_and_names_are_its_figures(self) -> None:
        drawing = '<svg xmlns="http://www.w3.org/2000/svg" width="96" height="48"><rect width="96" height="48"/></svg>'
        code = chunk("draw", f"require('fs').writeFileSync('plan.svg', '{drawing}');", "console.log('drawn');", language="node")  # fmt: skip
        captioned = f"{code}\n\nCaption: The plan.\n\nSee {{see draw}}."
        self.pressed(captioned)
        html = self.html.read_text(encoding="utf-8")
        self.assertIn('<a href="#draw">Figure\u00a01</a>', html)
        self.assertIn("2.54cm", html)
        (self.folder / "plan.svg").unlink()
        self.assertEqual(self.pressed(captioned), ["draw"])
        self.assertEqual(self.pressed(captioned), [])

    def test_its_complaints_have_lines_of_the_page(self) -> None:
        for language, code, line, words in (
            ("node", "let a = 1;\nthrow new Error('bad');", 2, "it ended with status 1"),
            ("awk", "BEGIN {\n  print (1\n}", 2, "it ended with status 2"),
            ("node", "process.exit(4)", 1, "it ended with status 4."),
        ):
            with self.subTest(code), self.assertRaises(PressingFailed) as told:
                self.pressed(f"```{language} run #bad\n{code}\n```")
            self.assertIn(words, str(told.exception))
            self.assertNotIn("/worn-", str(told.exception))
            first = self.HEAD.count("\n") + 1
            self.assertIn(f"p.md:{first + line}:", str(told.exception))

    def test_what_cannot_be_called_is_told_where_it_is_wanted(self) -> None:
        for languages, language, words in (
            ('nope: {command: "worn-no-such-program -x"}', "nope", "there is no program 'worn-no-such-program' on this machine"),
            ("nope: {suffix: .x}", "nope", "the command of `nope` is empty"),
            ('python: {command: "python3"}', "python", "'python' is a language already"),
            ('nope: {comand: "cat"}', "nope", "Did you mean 'command'"),
        ):  # fmt: skip
            text = f"---\ntitle: t\nlanguages:\n  {languages}\n---\n\n" + chunk("a", "x", language=language) + "\n"
            page = self.write("q.md", text)
            with self.subTest(languages), self.assertRaises(PageError) as told:
                press(page)
            self.assertIn(words, str(told.exception))


if __name__ == "__main__":
    unittest.main()
