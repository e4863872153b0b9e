"""What a command names that may be a path, and what programs go through folders for."""

import unittest

from tests.support import FolderCase
from wornpage.session.bash.code import asks_by_variables, only_written
from wornpage.session.bash.following import asked_for
from wornpage.session.commands import asks, asks_repository, given_to, may_be_missing, paths_in, sought_for_modules
from wornpage.session.r.code import only_written as written_by_r
from wornpage.store.repositories import repository_of, state_of


class Words(unittest.TestCase):
    def test_what_a_process_is_begun_with_is_taken_whole_and_word_by_word(self) -> None:
        texts = list(given_to(["sh", ["sh", "-c", "test -e 'my data/a b.csv'"], None, {"A": "b"}]))
        self.assertEqual(texts, ["sh", "sh", "-c", "test -e 'my data/a b.csv'"])
        self.assertIn("my data.csv", paths_in(["cat", "my data.csv"]))
        self.assertLessEqual({"my", "data/a", "b.csv"}, set(paths_in(texts)))
        self.assertEqual(paths_in(["", "\0"]), [])

    def test_any_word_may_be_missing_where_code_asks_and_paths_elsewhere(self) -> None:
        code = "test -d data || echo none"
        self.assertTrue(asks(code))
        self.assertIn("data", may_be_missing({"data", "-d"}, code))
        self.assertEqual(may_be_missing({"echo", "out/a.txt", "-x"}, "echo out/a.txt"), ["out/a.txt"])
        self.assertFalse(asks("mkdir -p out && cp a out") and not asks("mkdir out"))

    def test_a_shell_makes_what_it_names_only_once(self) -> None:
        self.assertEqual(
            only_written("mkdir -p out/figs other\necho x > out/figs/a.txt"), ("out/figs/a.txt", "out/figs", "other")
        )
        self.assertEqual(only_written("ls out; mkdir -p out"), ())

    def test_r_makes_folders_where_there_are_none(self) -> None:
        for code in (
            "if (!dir.exists('out')) dir.create('out')",
            'if (!dir.exists("out")) {\n  dir.create("out", recursive = TRUE)\n}\nx <- 1',
            "x <- 1\ndir.create('out', showWarnings = FALSE)",
        ):
            self.assertEqual(written_by_r(code), ("out",), code)
        for code in (
            "if (!dir.exists('out')) { dir.create('out'); cat('new') }",
            "if (!dir.exists('out')) dir.create('out') else cat('old')",
            "made <- dir.create('out', showWarnings = FALSE)",
            "if (!file.exists('in')) dir.create('out')",
        ):
            self.assertEqual(written_by_r(code), (), code)

    def test_a_shell_is_followed_where_it_asks_by_variables_and_nobody_can_see_that(self) -> None:
        for code in ("[ -f $F.txt ]", "[ $A -nt b ]", 'if [[ -d "in $Y" ]]; then :; fi', "test ! -e a$i"):
            self.assertTrue(asks_by_variables(code), code)
        for code in ("[ -f plain.txt ]", "[ $x -gt 3 ]", '[ -n "$x" ]', "set -x; [ -f $F ]", "echo $-; [ -f $F ]"):
            self.assertFalse(asks_by_variables(code), code)


class InFolder(FolderCase):
    def test_a_repository_is_told_by_where_its_branches_stand(self) -> None:
        (deep := self.folder / "in").mkdir()
        self.assertEqual(state_of(str(self.folder)), "absent")
        self.write(".git/HEAD", "ref: refs/heads/main\n")
        branch = self.write(".git/refs/heads/main", "1\n")
        self.assertEqual(repository_of(str(deep)), str(self.folder))
        first = state_of(str(self.folder))
        branch.write_text("2\n")
        second = state_of(str(self.folder))
        self.write("other/.git", f"gitdir: {self.folder}/.git/worktrees/other\n")
        self.write(".git/worktrees/other/HEAD", "2\n")
        self.write(".git/worktrees/other/commondir", "../..\n")
        third = state_of(str(self.folder / "other"))
        branch.write_text("3\n")
        self.assertEqual(len({first, second, third, state_of(str(self.folder / "other"))}), 4)
        self.assertTrue(asks_repository("git log | head") and not asks_repository("cat .gitignore digit"))

    def test_what_a_followed_shell_asked_for(self) -> None:
        lines = [
            "+ '[' -f maybe.txt ']'",
            "++ test '!' -e 'a b.txt'",
            "+ cd sub",
            "+ [[ -d in it ]]",
            "+ echo '[' -f no ']'",
            "+ '[' -n text ']'",
            "+ '[' a.c -nt 'b c' -a -e d ']'",
            "+ [[ x y -ot z ]]",
        ]
        told = self.write("told", "\n".join(lines))
        here = str(self.folder)
        found = [path.removeprefix(here) for _, path in asked_for(told, self.folder)]
        self.assertEqual(found[:4], ["/maybe.txt", "/a b.txt", "/in it", "/sub/in it"])
        self.assertEqual({path.removeprefix("/sub") for path in found[4:]}, {"/a.c", "/b c", "/d", "/x y", "/z"})
        self.assertEqual(asked_for(self.folder / "none", self.folder), ())

    def test_python_goes_through_its_own_folder_for_modules_unless_its_code_lists(self) -> None:
        plain, lists = self.write("plain.py", "print(1)"), self.write("lists.py", "import glob")
        (self.folder / "data").mkdir()
        here, data, python = str(self.folder), str(self.folder / "data"), ["/usr/bin/python3"]
        self.assertTrue(sought_for_modules(here, here, python, [str(plain)]))
        self.assertFalse(sought_for_modules(here, here, python, [str(plain), str(lists)]))
        self.assertFalse(sought_for_modules(data, here, python, [str(plain)]))
        self.assertFalse(sought_for_modules(here, here, ["ls"], []))
        self.assertFalse(sought_for_modules(here, here, ["python3 -c 'x' *.csv"], []))
