"""What commands do with what they are given, and how they say it, without starting the program."""

import contextlib
import io
import json
from pathlib import Path
from types import SimpleNamespace
from typing import Any
from unittest import mock

from tests.support import FolderCase
from wornpage.cli import given, plain
from wornpage.cli.edition_progress import Progress, _came_to
from wornpage.cli.ending import ended
from wornpage.cli.given import given_for, given_from, said
from wornpage.cli.pressing import Wanted, press_wanted
from wornpage.cli.run import run
from wornpage.cli.say import say_problems, seconds
from wornpage.cli.status import _value
from wornpage.cli.writing import save
from wornpage.tree.problem import PageError, Problem, Severity, UsageError
from wornpage.tree.span import Span

PAGE = """\
---
given:
  branch: {default: Quayside, one-of: [Quayside, Hill]}
  limit: {default: 60, type: whole number, from: 10, to: 90, step: 5, unit: "%"}
editions: {combine: {branch: [Quayside, Hill]}}
---

```python run #a
print(given.branch, given.limit)
```
"""


def heard(act: Any) -> tuple[str, str]:
    """What something prints on standard output and on standard error."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        act()
    return out.getvalue(), err.getvalue()


class CommandLines(FolderCase):
    def test_the_commonest_command_line_is_understood_at_once_and_only_that(self) -> None:
        for line, meant in {
            "press p.md": (Path("p.md"), "html"),
            "press p.md --as pdf": (Path("p.md"), "pdf"),
            "press --as html,pdf p.md": (Path("p.md"), "html,pdf"),
            "press": None,
            "press --help": None,
            "press p.md --afresh": None,
            "press p.md q.md r.md": None,
            "press p.md --as --open": None,
            "press --open --as pdf": None,
            "run p.md": None,
        }.items():
            with self.subTest(line):
                self.assertEqual(plain.plain_press(line.split()), meant)

    def test_given_values_from_the_line_are_nearer_than_those_of_a_file(self) -> None:
        file = self.write("g.yaml", "branch: Hill\nlimit: 010\nrooms: [a, b]\nwhen: 2024-02-29\n")
        self.assertEqual(given_from(["branch=Quay=side", "x="], file), {
            "branch": "Quay=side", "limit": "010", "rooms": ["a", "b"], "when": "2024-02-29", "x": "",
        })  # fmt: skip
        self.assertEqual(given_from(["a=1", "a=2", "a=3", " b =4"]), {"a": ["1", "2", "3"], "b": "4"})

    def test_what_cannot_be_given_is_told(self) -> None:
        for pairs, file, words in (
            (["branch"], None, "wants `name=value`"),
            (["=3"], None, "wants `name=value`"),
            ([], "gone.yaml", "cannot be read: No such file"),
            ([], "list.yaml", "holds no mapping"),
            ([], "latin.yaml", "cannot be read"),
        ):
            self.write("list.yaml", "- a\n- b\n")
            self.write("latin.yaml", b"a: \xff\n")
            with self.subTest(words), self.assertRaisesRegex(UsageError, words):
                given_from(pairs, None if file is None else self.folder / file)
        with self.assertRaises(PageError) as caught:
            given_from([], self.write("broken.yaml", "a: [1\n"))
        self.assertTrue(caught.exception.problems[0].span.file.endswith("broken.yaml"))

    def test_an_edition_brings_its_values(self) -> None:
        page = self.write("p.md", PAGE)
        self.assertEqual(given_for(page, ["limit=20"], "Hill"), {"limit": "20", "branch": "Hill"})
        with self.assertRaisesRegex(UsageError, "Did you mean .Hill."):
            given_for(page, [], "Hil")

    def test_files_are_never_written_over_a_source(self) -> None:
        page = self.write("p.md", PAGE)
        for target, sources in (
            (page, []),
            (self.write("d.csv", "a"), [self.folder / "d.csv"]),
            (self.folder / "no/x", []),
        ):
            with self.subTest(target.name), self.assertRaises(UsageError):
                save(target, b"x", sources)
        self.assertEqual(page.read_text(), PAGE)
        save(self.folder / "new.json", b"x", [page])
        self.assertEqual((self.folder / "new.json").read_bytes(), b"x")


class Words(FolderCase):
    def test_durations(self) -> None:
        for duration, words in ((0, "0 ms"), (0.0004, "0 ms"), (0.0061, "6 ms"), (0.0099, "0.01 s"), (1.234, "1.23 s"),
                                (99.994, "99.99 s"), (100, "1 min 40 s"), (3_725, "62 min 5 s")):  # fmt: skip
            self.assertEqual(seconds(duration), words)

    def test_values_for_people(self) -> None:
        for value, words in ((None, ""), (True, "yes"), (False, "no"), ([1, [True]], "1, yes"), ("a", "a")):
            self.assertEqual(said(value), words)
        for value, words in ((None, "none"), ((), "none"), (("a", True), "a, yes"), ({"a": 1, "b": None}, "a: 1")):
            self.assertEqual(_value(value), words)

    def test_problems_in_colour_only_where_there_are_colours(self) -> None:
        problems = [
            Problem(Span("p.md", 3, 2), "it is wrong"),
            Problem(Span("p.md", 4), "odd", severity=Severity.WARNING),
        ]
        self.assertEqual(heard(lambda: say_problems(problems))[1], "p.md:3:2: it is wrong.\np.md:4:1: warning: odd.\n")
        with mock.patch("wornpage.cli.say.is_coloured", return_value=True):
            self.assertEqual(heard(lambda: say_problems(problems[:1]))[1], "\x1b[31mp.md:3:2\x1b[0m: it is wrong.\n")

    def test_what_a_page_takes(self) -> None:
        page = self.write("p.md", PAGE)
        table, _ = heard(lambda: given.print_givens(page, False))
        for words in ("Quayside, Hill", "from 10 to 90 in steps of 5", "60 %", "default"):
            self.assertIn(words, table)
        schema = json.loads(heard(lambda: given.print_givens(page, True))[0])
        self.assertEqual((schema["properties"]["branch"]["enum"], schema["required"]), (["Quayside", "Hill"], []))
        self.assertIn("takes no given", heard(lambda: given.print_givens(self.write("q.md", "Words."), False))[0])

    def test_editions_as_they_get_on(self) -> None:
        def report(name: str, **more: Any) -> Any:
            return SimpleNamespace(
                edition=name, **{"failed": False, "is_unchanged": False, "seconds": 1.5, "ran": 2, "reused": 1, **more}
            )

        self.assertEqual(_came_to(report("a")), "pressed in 1.50 s  (2 run, 1 reused)")
        self.assertEqual(_came_to(report("a", failed=True, ran=0, reused=0)), "failed")

        def act() -> None:
            with Progress(12, silent=False) as progress:
                progress.at(0, "hill", "fit")
                progress.done("hill", report("hill"))
                progress.done("quay", report("quay", is_unchanged=True))
                progress.done("mill", report("mill", failed=True))
                self.assertEqual((len(progress._reports), progress._at), (3, {}))
                progress.at(1, "[bold]odd[/]", "a")
                from rich.console import Console

                console = Console(file=io.StringIO(), width=100)
                console.print(progress._drawn())
                drawn = console.file.getvalue()  # type: ignore[attr-defined]
                for words in ("3 of 12 editions", "1 failed", "[bold]odd[/]", "already right"):
                    self.assertIn(words, drawn)

        told = heard(act)[1].splitlines()
        self.assertEqual([line.split()[:2] for line in told], [["1/12", "hill"], ["3/12", "mill"]])

    def test_how_everything_ends(self) -> None:
        def failing(error: BaseException) -> Any:
            def act() -> int:
                raise error

            return act

        problem = Problem(Span("p.md", 1), "it is wrong")
        for act, status, words in (
            (lambda: 0, None, ""),
            (lambda: 1, 1, ""),
            (failing(UsageError("no such thing")), 2, "worn: no such thing"),
            (failing(PageError([problem])), 1, "p.md:1:1: it is wrong."),
            (failing(KeyboardInterrupt()), 1, "broken off"),
            (failing(SystemExit(130)), 1, ""),
            (failing(PermissionError(13, "Permission denied", "x")), 1, "Permission denied"),
        ):
            with self.subTest(words):
                left: list[Any] = []

                def run(act: Any = act, left: list[Any] = left) -> None:
                    try:
                        ended(act)
                        left.append(None)
                    except SystemExit as end:
                        left.append(end.code)

                self.assertIn(words, heard(run)[1])
                self.assertEqual(left, [status])


class Pressing(FolderCase):
    def test_json_holds_what_was_done_and_then_what_need_not_be(self) -> None:
        page = self.write("p.md", PAGE)
        first = json.loads(heard(lambda: press_wanted(Wanted(page, as_json=True)))[0])
        self.assertEqual([(c["label"], c["outcome"]) for c in first["chunks"]], [("a", "ran")])
        self.assertEqual([(o["kind"], o["written"]) for o in first["outputs"]], [("html", True)])
        again = json.loads(heard(lambda: press_wanted(Wanted(page, as_json=True)))[0])
        self.assertEqual(
            [(c["outcome"], o["written"]) for c, o in zip(again["chunks"], again["outputs"], strict=True)],
            [("reused", False)],
        )
        page.write_text(PAGE + "{= 1 / 0}")
        failed = json.loads(heard(lambda: press_wanted(Wanted(page, as_json=True)))[0])
        self.assertEqual([(p["line"], p["severity"]) for p in failed["problems"]], [(11, "error")])

    def test_names_of_files_that_are_no_text_are_kept_in_the_record(self) -> None:
        name = "f\udcff.txt"
        (self.folder / name).write_text("1")
        page = self.write("p.md", "```python run #a\nimport glob\nprint(open(glob.glob('f*')[0]).read())\n```\n")
        record = self.folder / "c.json"
        self.assertEqual(heard(lambda: press_wanted(Wanted(page, record=record)))[0], f"{page.with_suffix('.html')}\n")
        self.assertEqual(list(json.loads(record.read_text(encoding="utf-8"))["data"]), [name])
        from wornpage.cli.reproduce import _read

        self.assertEqual(list(_read(record, True)["data"]), [name])

    def test_running_shows_what_code_writes_of_its_own(self) -> None:
        code = "page.heading('About {= 1/3 as 2 decimals}', level=3)\npage.prose('Not \\\\{= a}, but {= 2000 as thousands} {= 5.0}.')"
        page = self.write("p.md", f"```python run #a\n{code}\n```\n")
        shown, _ = heard(lambda: run(page, None, None, None, ""))
        self.assertEqual(shown, "### About 0.33\nNot {= a}, but 2,000 5.\n")
