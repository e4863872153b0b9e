"""The shell as a language of chunks: what it carries on, where it fails, and the same law as for all others."""

import random
import unittest
from pathlib import Path

from tests.languages.made_up import MadeUp
from tests.support import FolderCase
from wornpage.press import PressingFailed, press


def chunk(label: str, *lines: str, language: str = "bash") -> str:
    return f"```{language} run #{label} on-error=show\n" + "\n".join(lines) + "\n```"


class Pages(FolderCase):
    HEAD = "---\ntitle: t\n---\n\n"

    def pressed(self, *chunks: str, folder: Path | None = None) -> list[str]:
        """Press a page of these chunks; which ran."""
        page = (folder or self.folder) / "p.md"
        page.write_text(self.HEAD + "\n\n".join(chunks) + "\n", encoding="utf-8")
        self.html = page.with_suffix(".html")
        return [one.label for one in press(page).chunks if one.outcome != "reused"]

    def shown(self) -> list[str]:
        """What the chunks have printed, one after the other."""
        import html
        import re

        found = re.findall(r'<pre tabindex="0">(.*?)</pre>', self.html.read_text(encoding="utf-8"), re.DOTALL)
        return [html.unescape(re.sub(r"<[^>]*>", "", one)) for one in found]


class Bash(Pages):
    def test_everything_of_a_shell_goes_on_in_the_next_chunk(self) -> None:
        self.write("data/rooms.txt", "one\ntwo\n")
        self.pressed(
            chunk("a", "x=5; arr=(a 'b c'); declare -A m=([k]='v w'); readonly fixed=7", "f() {", '  echo "f $1 $x"', "}",
                  "export TOLD=yes; cd data; umask 027; shopt -s nullglob; alias say=echo; trap 'echo end' EXIT"),
            chunk("b", 'f hello; echo "${arr[1]}|${m[k]}|$fixed"', 'sh -c \'echo "$TOLD"\'', "wc -l < rooms.txt; umask; echo *.none; pwd | grep -c data$"),
            chunk("c", "unset x TOLD; unset -f f; cd ..; set +e; false; echo on"),
            chunk("d", 'echo "${x-gone} ${TOLD-gone}"; type f > /dev/null 2>&1 || echo none; ls; false; echo on'),
        )  # fmt: skip
        self.assertEqual(
            [one.strip() for one in self.shown()],
            ["end", "f hello 5\nb c|v w|7\nyes\n2\n0027\n\n1", "on", "gone gone\nnone\ndata\np.md\non"],
        )

    def test_only_chunks_that_use_what_has_changed_run_again(self) -> None:
        self.write("in.txt", "b\na\n")
        chunks = [chunk("a", "x=1"), chunk("b", "y=2"), chunk("sort", "sort in.txt > out.txt"), chunk("c", 'echo "$x"'), chunk("d", "cat out.txt")]  # fmt: skip
        self.pressed(*chunks)
        self.assertEqual(self.pressed(*chunks, "Words."), [])
        chunks[1] = chunk("b", "y=3")
        self.assertEqual(self.pressed(*chunks), ["b"])
        chunks[0] = chunk("a", "x=4")
        self.assertEqual(self.pressed(*chunks), ["a", "c"])
        self.write("in.txt", "c\n")
        self.assertEqual(self.pressed(*chunks), ["sort", "d"])
        self.assertEqual([one.strip() for one in self.shown()], ["4", "c"])
        self.assertEqual(self.pressed(*chunks), [])
        (self.folder / "out.txt").unlink()
        self.assertEqual(self.pressed(*chunks), ["sort"])

    def test_files_that_are_sought_listed_or_changed_in_place_are_inputs(self) -> None:
        chunks = [chunk("a", "[ -f there.txt ] && echo yes || echo no"), chunk("b", "for one in data/*.csv; do echo $one; done"), chunk("c", "echo more >> log.txt; wc -l < log.txt")]  # fmt: skip
        self.write("data/a.csv", "")
        self.write("log.txt", "first\n")
        self.pressed(*chunks)
        self.assertEqual([one.strip() for one in self.shown()], ["no", "data/a.csv", "2"])
        self.write("there.txt", "")
        self.write("data/b.csv", "")
        self.assertEqual(self.pressed(*chunks), ["a", "b", "c"], "what adds to a file reads what it held")
        self.assertEqual([one.strip() for one in self.shown()], ["yes", "data/a.csv\ndata/b.csv", "3"])

    def test_a_status_is_told_with_its_line_and_without_our_words(self) -> None:
        for code, line, words in (
            ("true\nnosuchcmd x\n", 2, "it ended with status 127: nosuchcmd: command not found"),
            ("echo a |\n  grep z\n", 2, "it ended with status 1."),
            ("if true; then\n  echo b\n", 3, "syntax error: unexpected end of file"),
            ("set -u\ntrue\necho $gone\n", 3, "gone: unbound variable"),
            ("g() {\n  false\n}\ntrue\ng\n", 5, "it ended with status 1."),
            ("exit 3\n", 1, "it ended with status 3."),
        ):
            with self.subTest(code), self.assertRaises(PressingFailed) as told:
                self.pressed(f"```bash run #bad\n{code}```")
            self.assertIn(f"p.md:{5 + line}:", str(told.exception))
            self.assertIn(words, str(told.exception))
            self.assertNotIn("/worn-", str(told.exception))

    def test_given_values_time_and_what_goes_on_behind(self) -> None:
        self.write("p.md", "---\ntitle: t\ngiven: {branch: Harrow, years: [1990, 1991]}\n---\n\n" + chunk("a", 'echo "$GIVEN_BRANCH"; for y in $GIVEN_YEARS; do echo $y; done; sleep 30 &'))  # fmt: skip
        page = self.folder / "p.md"
        self.html = page.with_suffix(".html")
        press(page)
        self.assertEqual([one.strip() for one in self.shown()], ["Harrow\n1990\n1991"])
        self.assertEqual([one.outcome for one in press(page, given={"branch": "Quay"}).chunks], ["ran"])
        with self.assertRaises(PressingFailed) as told:
            self.pressed("```bash run #slow timeout=0.5s\nsleep 20\n```")
        self.assertIn("past its timeout of 0.5 s", str(told.exception))

    def test_what_others_do_meanwhile_is_none_of_its_doing(self) -> None:
        import threading
        import time

        self.write("other.txt", "1")

        def elsewhere() -> None:
            time.sleep(0.7)
            self.write("other.txt", "2")
            self.write("p.html", "3")

        thread = threading.Thread(target=elsewhere)
        thread.start()
        chunks = [chunk("a", "sleep 1.5; echo done > mine.txt")]
        self.pressed(*chunks)
        thread.join()
        self.write("other.txt", "4")
        self.assertEqual(self.pressed(*chunks, "Words."), [])
        (self.folder / "mine.txt").unlink()
        self.assertEqual(self.pressed(*chunks), ["a"])


LINES = (
    "x={k}", "y=$((x + {k}))", "echo $x $y", "arr+=({k})", 'echo "${{arr[@]}}"', "f() {{ echo f{k} $x; }}", "f", "unset x", "echo $RANDOM",
    "echo {k} > f.txt", "cat f.txt", "echo {k} >> log.txt", "wc -l < log.txt", "[ -f g.txt ] && echo yes || echo no", "sort -r f.txt > g.txt",
    "cp f.txt g.txt", "rm -f g.txt", "ls *.txt", "x=$(cat f.txt)", "export E{k}={k}; env | grep ^E. | sort", "cd sub; pwd | tail -c 4; cd ..",
    "set +e", "set -e", "false", "sed -i s/1/{k}/ f.txt", "declare -A m; m[k{k}]={k}; echo ${{m[@]}}", "eval 'x=$y'; echo $x", "trap 'echo bye' EXIT",
    "o=f.txt; echo {k} > $o", "cat $o",
)  # fmt: skip
PYTHON = (
    "print(open('f.txt').read())",
    "open('f.txt', 'w').write('{k}\\n')",
    "n = {k}",
    "print(n)",
    "import glob; print(sorted(glob.glob('*.txt')))",
)


class Law(MadeUp, Pages):
    """On pages of shells and Python."""

    SEEDS = 6

    def made(self, chance: random.Random, label: str) -> str:
        """A chunk of either language."""
        language, lines = chance.choice((("bash", LINES), ("bash", LINES), ("python", PYTHON)))
        picked = (line.format(k=chance.randint(1, 9)) for line in chance.sample(lines, chance.randint(1, 4)))
        return chunk(label, *picked, language=language)


if __name__ == "__main__":
    unittest.main()
