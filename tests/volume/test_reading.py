"""The list of a volume: which pages it means, in which order, what they are called, and what is wrong with it."""

from pathlib import Path

from tests.support import FolderCase
from wornpage.tree.problem import PageError
from wornpage.volume.reading import Volume, look_in, read_volume, sound_volume


class Listing(FolderCase):
    def volume(self, text: str, *pages: str) -> tuple[Volume, list[str]]:
        for name in pages:
            self.write(name, f"---\ntitle: {Path(name).stem}\n---\n")
        volume, problems = read_volume(self.write("volume.yaml", text))
        return volume, [f"{problem.span.line}:{problem.span.column} {problem.what}" for problem in problems]

    def listed(self, text: str, *pages: str) -> list[tuple[str, str, str]]:
        """Name, number and address of each page of a sound volume."""
        volume, problems = self.volume(text, *pages)
        self.assertEqual(problems, [])
        return [(one.chapter.key, one.chapter.number, one.address) for one in volume.entries]

    def test_pages_stand_in_the_order_in_which_people_count(self) -> None:
        found = self.listed("pages: [c/*.md]", "c/p10.md", "c/p2.md", "c/p1.md")
        self.assertEqual([key for key, _, _ in found], ["p1", "p2", "p10"])

    def test_what_is_named_is_not_taken_by_a_pattern_wherever_it_stands(self) -> None:
        found = self.listed(
            "pages: [c/*.md]\nparts: [{title: P, pages: [c/a.md]}]\nappendix: [c/z.md]", "c/a.md", "c/b.md", "c/z.md"
        )
        self.assertEqual(found, [("b", "1", "c/b"), ("a", "2", "c/a"), ("z", "A", "c/z")])

    def test_names_that_two_have_go_by_their_folders(self) -> None:
        found = self.listed("front: [a/x.md]\npages: [b/x.md, y.md]", "a/x.md", "b/x.md", "y.md")
        self.assertEqual(found, [("a/x", "", "a/x"), ("b/x", "1", "b/x"), ("y", "2", "y")])

    def test_addresses_keep_out_of_the_way_of_the_sites_own_and_of_each_other(self) -> None:
        outside = self.write("elsewhere/references.md", "---\ntitle: x\n---\n").parent
        self.folder /= "inner"
        found = self.listed(
            f"pages: [../{outside.name}/references.md, a/Same.md, ../inner/a/same.md, 'with blank.md']",
            "a/Same.md", "a/same.md", "with blank.md",
        )  # fmt: skip
        addresses = [address.lower() for _, _, address in found]
        self.assertEqual(
            len(set(addresses)), 4, "also where files are told apart by nothing but small and large letters"
        )
        self.assertEqual(found[0][2], "references-page")
        self.assertEqual(found[3][0], "with-blank", "what pointers can say")

    def test_numbers_may_be_left_out(self) -> None:
        found = self.listed("section-numbers: no\npages: [a.md]\nappendix: [b.md]", "a.md", "b.md")
        self.assertEqual([number for _, number, _ in found], ["", "A"])
        self.write("worn.yaml", "section-numbers: no\n")
        self.assertEqual([number for _, number, _ in self.listed("pages: [a.md]", "a.md")], [""], "for all the project")
        self.assertEqual([number for _, number, _ in self.listed("section-numbers: yes\npages: [a.md]", "a.md")], ["1"])

    def test_editions_are_chapters(self) -> None:
        self.write(
            "e.md", "---\ntitle: x\ngiven: {n: 1}\neditions: {combine: {n: [1, 2, 12]}, name: 'n {= given.n}'}\n---\n"
        )
        found = self.listed("pages: [{editions-of: e.md, only: 'n 1*'}]")
        self.assertEqual(found, [("n-1", "1", "e/n-1"), ("n-12", "2", "e/n-12")])

    def test_what_is_wrong_has_its_place(self) -> None:
        self.write("e.md", "---\ntitle: x\n---\n")
        for text, said in {
            "pages: []\n": "1:1 this volume has no pages.",
            "pages: [a.md, a.md]": "1:15 'a.md' stands already in line 1.",
            "pages: [{}]": "1:9 here stands either a page, or `editions-of:` with the page whose editions are meant.",
            "pages: [{editions-of: e.md}]": "2:1 this page declares no editions.",
            "pages: [a.md]\nstationery: nope": "2:13 there is no stationery 'nope'.",
            "pages: [a.md]\nlists: [plots]": "2:9 ",
            "pages: '[x'": "1:8 no page fits '[x'.",
            "- a.md": "1:1 the volume.yaml is no mapping.",
        }.items():
            _, problems = self.volume(text, "a.md")
            self.assertTrue(any(one.startswith(said) for one in (p.replace(str(self.folder) + "/", "") for p in problems)), (text, problems))  # fmt: skip
        with self.assertRaises(PageError):
            sound_volume(self.write("volume.yaml", "pages: [none.md]"))
        with self.assertRaises(PageError):
            read_volume(self.write("volume.yaml", b"pages: [\xff]"))

    def test_folders_in_which_a_new_page_would_count(self) -> None:
        volume, _ = self.volume("pages: [c/**/*.md, a.md]", "c/d/x.md", "c/y.md", "a.md")
        self.assertEqual([one.relative_to(volume.folder).as_posix() for one in look_in(volume)], ["c", "c/d"])
