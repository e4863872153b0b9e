"""Settings from several levels: which wins, where each came from, what is wrong and where."""

import unittest

from tests.support import FolderCase
from wornpage.settings import Settings, settle
from wornpage.settings.levels import merge, shown_as
from wornpage.source import read_page
from wornpage.tree.problem import Problem, UsageError

CHUNK = "```python run #load\n1\n```\n"


class Levels(FolderCase):
    def settled(
        self, text: str, project: str = "", name: str = "page.md", **wanted: object
    ) -> tuple[Settings, list[Problem]]:
        if project:
            self.write("worn.yaml", project)
        page = read_page(self.write(name, text), name)
        return settle(page, None, wanted)

    def sound(self, text: str, project: str = "", name: str = "page.md", **wanted: object) -> Settings:
        settings, problems = self.settled(text, project, name, **wanted)
        self.assertEqual(problems, [])
        return settings

    def test_the_nearer_level_wins_option_by_option(self) -> None:
        page = "---\nchunks:\n  all: {width: 10cm, show: output}\n  load: {width: 12cm}\n---\n" + CHUNK.replace(
            "#load", "#load show=all"
        )
        settings = self.sound(page, "chunks: {all: {height: 5cm, width: 9cm, timeout: 9s}}\n")
        chunk = settings.chunks["load"]
        self.assertEqual(
            (chunk.options.width, chunk.options.height, chunk.options.show, chunk.options.timeout), (12, 5, "all", 9)
        )
        self.assertEqual(
            {name: chunk.levels[name] for name in ("width", "height", "show", "dpi")},
            {"width": "chunks: load", "height": "worn.yaml", "show": "header", "dpi": "built in"},
        )

    def test_an_output_has_defaults_of_its_own_which_give_way_to_what_is_said_of_a_chunk(self) -> None:
        page = (
            "---\nchunks: {all: {show: output, tuck: yes}, b: {show: source}}\npress: {slides: {chunks: {show: all, decimals: 2}}}\n---\n\n"
            "```python run #a\n1\n```\n\n```python run #b\n2\n```\n\n```python run #c show=nothing decimals=0\n3\n```\n"
        )
        settings = self.sound(
            page, "press: {slides: {chunks: {output-goes: beside, show: source}}}\nchunks: {all: {rows: 5}}\n"
        )
        shown = shown_as(settings, "slides").chunks
        self.assertEqual([shown[label].options.show for label in "abc"], ["all", "source", "nothing"])
        self.assertEqual([shown[label].options.decimals for label in "abc"], [2, 2, 0])
        self.assertEqual([shown[label].options.output_goes for label in "abc"], ["beside"] * 3)
        self.assertEqual((shown["a"].options.rows, shown["a"].options.tuck), (5, True))
        self.assertEqual((shown["a"].levels["show"], shown["c"].levels["show"]), ("press.slides.chunks", "header"))
        self.assertIs(shown_as(settings, "html"), settings)

    def test_what_a_volume_sets_lies_between_project_and_page(self) -> None:
        self.write(
            "volume.yaml",
            "title: V\npages: [page.md]\nlanguage: de\nchunks: {all: {width: 9cm, height: 4cm}}\ngiven: {n: 3}\n",
        )
        page = "---\nlanguage: fr\ngiven: {n: 1}\nchunks: {all: {height: 5cm}}\n---\n" + CHUNK
        self.write("worn.yaml", "language: es\nseed: 7\nchunks: {all: {width: 8cm, dpi: 99}}\n")
        source = read_page(self.write("page.md", page), "page.md")
        settings, problems = settle(source, None, {}, self.folder / "volume.yaml")
        self.assertEqual(problems, [])
        self.assertEqual((settings.page.language, settings.page.seed, settings.given["n"]), ("fr", 7, 3))
        options = settings.chunks["load"].options
        self.assertEqual((options.width, options.height, options.dpi), (9, 5, 99))
        self.assertEqual(settings.chunks["load"].levels["width"], "volume.yaml")
        self.assertEqual(settings.given_levels["n"], "volume.yaml")
        alone, _ = settle(source, None, {})
        self.assertEqual((alone.chunks["load"].options.width, alone.given["n"]), (8, 1))

    def test_nested_settings_are_joined_and_lists_are_not(self) -> None:
        further = {"press": {"html": {"a": 1, "b": 2}, "pdf": {"c": 3}}, "authors": ["A", "B"]}
        nearer = {"press": {"html": {"b": 4}}, "authors": ["C"]}
        self.assertEqual(
            merge(further, nearer), {"press": {"html": {"a": 1, "b": 4}, "pdf": {"c": 3}}, "authors": ["C"]}
        )
        self.assertEqual(further["press"]["html"], {"a": 1, "b": 2})  # type: ignore[index]

    def test_files_that_a_project_names_lie_beside_it(self) -> None:
        settings = self.sound("# P\n", "bibliography: [refs/a.bib, b.bib]\nstationery: house\n", "deep/er/page.md")
        self.assertEqual(list(settings.page.bibliography), ["../../refs/a.bib", "../../b.bib"])
        self.assertEqual(settings.levels["bibliography"], "worn.yaml")
        own = self.sound("---\nbibliography: own.bib\n---\n", "", "deep/er/page.md")
        self.assertEqual(list(own.page.bibliography), ["own.bib"])

    def test_given_values_and_where_they_came_from(self) -> None:
        page = "---\ngiven: {n: 1, day: 2024-01-01, rooms: [a, b]}\n---\n"
        settings = self.sound(page, "given: {n: 2, other: 3}\n", rooms=["c"])
        self.assertEqual((settings.given["n"], settings.given["rooms"]), (2, ["c"]))
        self.assertEqual(settings.given_levels, {"n": "worn.yaml", "day": "default", "rooms": "command line"})
        for name, value in (("n", "x"), ("day", "soon"), ("none", "1")):
            with self.subTest(name), self.assertRaises(UsageError) as caught:
                self.settled(page, **{name: value})
            self.assertIn(name, str(caught.exception))

    def test_faults_stand_in_the_file_that_they_are_in(self) -> None:
        for page, project, place, what in (
            ("# P\n", "seed: x\n", "worn.yaml:1", "whole number"), ("# P\n", "chunks: {load: {dpi: 90}}\n", "worn.yaml:1", "`all:`"), ("---\nchunks: {laod: {dpi: 90}}\n---\n" + CHUNK, "", "page.md:2", "load"),
            ("---\ntitel: T\n---\n", "", "page.md:2", "title"), ("---\npress: {html: {contnets: top}}\n---\n", "", "page.md:2", "contents"), (CHUNK.replace("#load", "#load widht=3cm"), "", "page.md:1", "width"),
            ("# P\n", "given: {n: x}\n---\n", "worn.yaml", ""), ("---\ngiven: {n: 1}\n---\n", "given: {n: x}\n", "worn.yaml:1", "n"),
        ):  # fmt: skip
            with self.subTest(page=page, project=project):
                (self.folder / "worn.yaml").unlink(missing_ok=True)
                _, problems = self.settled(page, project)
                self.assertTrue(problems)
                self.assertTrue(
                    any(place in str(one) and what in str(one) for one in problems), list(map(str, problems))
                )

    def test_inserted_files_say_what_they_take(self) -> None:
        self.write("part.md", "---\ngiven: {room: a, n: 1}\n---\n\n```python run\nroom, n\n```\n")
        for mark, what in (
            ("{insert part.md rom='x'}", "'rom'"),
            ("{insert part.md n='x'}", "n"),
            ("{insert part.md room='x' n=2}", ""),
            ("{insert part.md n=later}", ""),
        ):
            with self.subTest(mark):
                _, problems = self.settled(f"{mark}\n")
                self.assertEqual([what in one.what for one in problems], [True] if what else [], problems)

    def test_inserted_files_stay_in_the_project(self) -> None:
        self.write("worn.yaml", "seed: 2\n")
        self.write("inner/worn.yaml", "seed: 3\n")
        self.write("outer.md", "Words.\n")
        page = "{insert ../outer.md}\n"
        _, problems = self.settled(page, name="inner/page.md")
        self.assertIn("outside", problems[0].what)
        self.assertEqual(self.settled(f"---\ninsert-from: ..\n---\n{page}", name="inner/page.md")[1], [])


if __name__ == "__main__":
    unittest.main()
