"""The parts that collating is made of, each by itself."""

import re
import unittest
from random import Random

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from wornpage.collate.checking import reading, reading_of
from wornpage.collate.items import Item
from wornpage.collate.rebasing import changes, narrowed, rebase
from wornpage.collate.report import Patch, applied
from wornpage.collate.spelling import LEVELS, written
from wornpage.collate.versions import Version, carried, with_versions
from wornpage.collate.wording import likeness, rising, same, same_letters
from wornpage.source.comments import Note, placed
from wornpage.source.units import units_of

_TEXTS = st.lists(st.sampled_from(["one", "two", "three", "four", ".", "\n", "one two"]), max_size=14).map(" ".join)


_LOOKS = st.frozensets(st.sampled_from(["em", "strong", "strike", "code", "link:https://a.example"]))


class Looks(unittest.TestCase):
    @given(st.lists(st.tuples(_LOOKS, st.booleans()), min_size=1, max_size=7))
    def test_words_can_overlap_in_any_looks(self, words: list[tuple[frozenset[str], bool]]) -> None:
        items: list[Item] = []
        for looks, goes_on in words:
            after = looks if goes_on else frozenset[str]()
            items += [*(Item(letter, looks) for letter in "word"), Item(" ", after)]
        wanted = reading_of(items, [], "p", 0)
        made = [written([], "", [replace(one) for one in items], way) for way in LEVELS]
        self.assertIn([wanted], [[reading(unit) for unit in units_of(text).units] for text in made], made)

    def test_a_style_that_another_reaches_into_keeps_its_signs(self) -> None:
        source = units_of("one __two three__ four\n")
        atoms = source.units[0].atoms
        new = frozenset({"em"})
        items = [
            Item(one.text, source.units[0].looks(one) | (new if at >= 8 else frozenset()), 0, at)
            for at, one in enumerate(atoms)
        ]
        self.assertEqual(written(source.units, source.text, items, 0), "one __two *three*__ *four*")


class Words(unittest.TestCase):
    @given(_TEXTS, _TEXTS)
    def test_what_is_the_same_is_the_same_and_rises(self, one: str, other: str) -> None:
        for pairs in (same(one.split(), other.split()), same_letters(one, other)):
            self.assertEqual(pairs, sorted(set(pairs)))
            self.assertEqual(len({to for _, to in pairs}), len(pairs))
        self.assertTrue(all(one[at] == other[to] for at, to in same_letters(one, other)))
        self.assertEqual(len(same_letters(one, one)), len(one))

    def test_a_word_with_another_end_keeps_its_beginning(self) -> None:
        kept = [at for at, _ in same_letters("the volumes wear", "the volume wears")]
        self.assertEqual("".join("the volumes wear"[at] for at in kept), "the volume wear")
        self.assertEqual(same_letters("cat", "dog"), [])

    def test_likeness_counts_words(self) -> None:
        self.assertEqual(likeness("a b c d", "a b c d"), 1.0)
        self.assertGreater(likeness("a b c d", "a b x d"), 0.7)
        self.assertEqual(likeness("a b c d", "w x y z"), 0.0)
        self.assertEqual(rising([(0, 2), (1, 0), (2, 1), (3, 3)]), [(1, 0), (2, 1), (3, 3)])


class Rebasing(unittest.TestCase):
    @given(_TEXTS, _TEXTS)
    def test_changes_make_one_text_of_another(self, old: str, new: str) -> None:
        self.assertEqual(applied(old, changes(old, new)), new)

    @given(_TEXTS, st.sampled_from(["x", "", "one y"]), st.integers(0, 60), st.integers(0, 20))
    def test_on_a_page_that_has_not_changed_all_patches_hold(
        self, text: str, new: str, start: int, length: int
    ) -> None:
        start = min(start, len(text))
        patch = Patch(start, min(start + length, len(text)), new)
        again = rebase(text, text, [patch])
        self.assertEqual((applied(text, again.patches), again.conflicts), (applied(text, [patch]), []))
        self.assertEqual(applied(text, narrowed(text, [patch])), applied(text, [patch]))

    def test_apart_both_hold_and_together_they_are_a_conflict(self) -> None:
        base, now = "red green blue black", "red GREEN blue black"
        first = rebase(base, now, [Patch(10, 14, "BLUE")])
        self.assertEqual((applied(now, first.patches), first.conflicts), ("red GREEN BLUE black", []))
        second = rebase(base, now, [Patch(4, 9, "yellow", (0,))])
        self.assertEqual([(one.ours, one.theirs, one.edits) for one in second.conflicts], [("GREEN", "yellow", (0,))])
        third = rebase(base, now, [Patch(4, 9, "GREEN", (7,))])
        self.assertEqual((third.patches, third.conflicts), ([], []))

    @given(st.randoms(use_true_random=False))
    def test_whoever_has_it_all_their_words_are_there_once_and_in_order(self, chance: Random) -> None:
        base = [f"w{number}" for number in range(chance.randint(1, 30))]
        text = " ".join(base) + "."
        page = _changed(text, chance, "own")
        theirs = _changed(text, chance, "new")
        made = rebase(text, applied(text, page), theirs)
        now = applied(text, page)
        kept = applied(now, made.patches)
        taken = applied(now, [*made.patches, *(Patch(one.start, one.end, one.theirs) for one in made.conflicts)])
        self.assertEqual(_found("own", kept), _found("own", now))
        self.assertEqual(_found("new", taken), _found("new", applied(text, theirs)))
        for version in (kept, taken):
            said = re.findall(r"\bw\d+", version)
            self.assertEqual(said, sorted(set(said), key=lambda word: int(word[1:])))

    def test_two_changes_in_words_that_are_gone_are_one_conflict(self) -> None:
        base = "Here. The quick fox saw the lazy dog. There."
        made = rebase(base, "Here. There.", [Patch(10, 15, "slow", (0,)), Patch(28, 32, "keen", (1,))])
        self.assertEqual(
            [(one.theirs, one.edits) for one in made.conflicts], [("The slow fox saw the keen dog. ", (0, 1))]
        )

    def test_what_is_moved_is_taken_as_a_whole(self) -> None:
        base = "one.\n\ntwo here.\n\nthree.\n"
        moved = [Patch(6, 17, "", (0,)), Patch(24, 24, "\n\ntwo here.", (0,))]
        made = rebase(base, base.replace("here", "there"), moved)
        self.assertEqual((made.patches, [one.edits for one in made.conflicts]), ([], [(0,), (0,)]))

    def test_an_edit_is_told_with_its_own_words(self) -> None:
        base = "red green blue black"
        narrow = narrowed(base, [Patch(0, 20, "RED green blue BLACK", (0, 1))], [0, 15])
        self.assertEqual([one.edits for one in narrow], [(0,), (1,)])


def _changed(text: str, chance: Random, sign: str) -> list[Patch]:
    """Some words changed, taken out or put in: every new one a word of its own."""
    made: list[Patch] = []
    for number, word in enumerate(re.finditer(r"w\d+ ?", text)):
        kind = chance.choice(["keep", "keep", "keep", "other", "gone", "more"])
        new = f"{sign}{number} "
        if kind == "other":
            made.append(Patch(word.start(), word.end(), new, (number,)))
        elif kind == "gone":
            made.append(Patch(word.start(), word.end(), "", (number,)))
        elif kind == "more":
            made.append(Patch(word.start(), word.start(), new, (number,)))
    return made


def _found(sign: str, text: str) -> list[str]:
    return re.findall(rf"{sign}\d+", text)


class Versions(unittest.TestCase):
    def test_all_that_share_a_line_stand_together_and_the_rest_of_the_page_is_as_it_was(self) -> None:
        text = "first\nsecond line\nthird\n"
        ada = [Version(6, 12, "2nd", "Ada", 0), Version(13, 17, "row", "Ada", 0)]
        bea, cai = Version(6, 12, "2.", "Bea", 1), Version(13, 17, "row", "Cai", 2)
        both = with_versions(text, [cai, *ada, bea])
        self.assertEqual(
            both,
            "first\n<<<<<<< the page\nsecond line\n=======\n2nd row\n=======\n2. line\n=======\nsecond row\n"
            ">>>>>>> Ada; Bea; Cai\nthird\n",
        )
        alike = with_versions(text, [bea, Version(6, 12, "2.", "Cai", 2)])
        self.assertIn(">>>>>>> Bea, Cai\n", alike)
        self.assertEqual(alike.count("2. line"), 1)

    def test_a_version_stays_with_its_words_when_others_change(self) -> None:
        text = "one two three four"
        versions = [Version(4, 7, "2", "Ada")]
        for patch, stands in (
            (Patch(0, 3, "a longer one"), "two"),
            (Patch(8, 13, ""), "two"),
            (Patch(4, 7, "other"), "other"),
            (Patch(0, 13, "all of it"), "all of it"),
            (Patch(4, 5, "T"), "Two"),
        ):
            (moved,) = carried(versions, [patch])
            self.assertEqual(applied(text, [patch])[moved.start : moved.end], stands)


class Comments(unittest.TestCase):
    def test_a_comment_is_where_its_words_are_now(self) -> None:
        source = units_of("New.\n\n# Head\n\nThe river rises {= x} times in *May*.\n\nAnother river.\n")
        notes = [
            Note("A", "", "t", "river", "The river rises three times in May.", 3),
            Note("A", "", "t", "gone", "Nothing of this is there.", 9),
        ]
        found = [(one.line, one.column, bool(one.key)) for one in placed(notes, source)]
        self.assertEqual(found, [(5, 5, True), (9, 1, False)])
