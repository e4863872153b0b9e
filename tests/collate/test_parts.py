"""The parts that collating is made of, each by itself."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.collate.checking import applied
from wornpage.collate.rebasing import changes, narrowed, rebase
from wornpage.collate.report import Patch
from wornpage.collate.wording import likeness, rising, same, same_letters
from wornpage.source.comments import Note, placed
from wornpage.source.units import units_of

_TEXTS = st.lists(st.sampled_from(["one", "two", "three", "four", ".", "\n", "one two"]), max_size=14).map(" ".join)


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
        self.assertEqual((third.patches, third.conflicts, third.made_already), ([], [], (7,)))


class Comments(unittest.TestCase):
    def test_a_comment_is_where_its_words_are_now(self) -> None:
        source = units_of("New.\n\n# Head\n\nThe river rises {= x} times in *May*.\n\nAnother river.\n")
        notes = [
            Note("A", "", "t", "river", "The river rises three times in May.", 3),
            Note("A", "", "t", "gone", "Nothing of this is there.", 9),
        ]
        found = [(one.line, one.column, bool(one.key)) for one in placed(notes, source)]
        self.assertEqual(found, [(5, 5, True), (9, 1, False)])
