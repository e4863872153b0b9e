"""Laws of carrying changes over, whatever both have written: nothing of either is lost, and nothing is told that is not so."""

from itertools import pairwise

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.support import FolderCase
from wornpage.collate.rebasing import changes, narrowed, rebase
from wornpage.collate.report import Patch, applied
from wornpage.collate.versions import Version, carried, with_versions
from wornpage.source.conflicts import BETWEEN, OURS, THEIRS

WORDS = ("paper ", "damp ", "is ", "old, ", "acid.\n", "\n\n", "{= n} ", "*thin* ", "ü ")
Text = st.lists(st.sampled_from(WORDS), max_size=14).map("".join)


@st.composite
def patched(draw: st.DrawFn) -> tuple[str, list[Patch]]:
    """A text and changes of it that do not lie across each other, each an edit of its own."""
    text = draw(Text)
    places = sorted(draw(st.lists(st.integers(0, len(text)), min_size=2, max_size=8)))
    pairs = list(zip(places[::2], places[1::2], strict=False))
    apart = [pair for at, pair in enumerate(pairs) if at == 0 or pair[0] > pairs[at - 1][1]]
    return text, [Patch(start, end, draw(Text), (at,)) for at, (start, end) in enumerate(apart)]


class Rebasing(FolderCase):
    @settings(deadline=None, max_examples=300)
    @given(Text, Text)
    def test_what_has_become_of_a_text_makes_it_so(self, old: str, new: str) -> None:
        found = changes(old, new)
        self.assertEqual(applied(old, found), new)
        self.assertTrue(all(one.end <= other.start for one, other in pairwise(found)))  # fmt: skip

    @settings(deadline=None, max_examples=300)
    @given(patched())
    def test_narrowed_changes_come_to_the_same(self, made: tuple[str, list[Patch]]) -> None:
        text, patches = made
        self.assertEqual(applied(text, narrowed(text, patches)), applied(text, patches))

    @settings(deadline=None, max_examples=300)
    @given(patched())
    def test_a_page_as_it_was_takes_every_change(self, made: tuple[str, list[Patch]]) -> None:
        text, patches = made
        found = rebase(text, text, patches)
        self.assertEqual(found.conflicts, [])
        self.assertEqual(applied(text, found.patches), applied(text, patches))

    @settings(deadline=None, max_examples=300)
    @given(patched())
    def test_a_page_that_has_every_change_takes_none(self, made: tuple[str, list[Patch]]) -> None:
        text, patches = made
        now = applied(text, changes(text, applied(text, patches)))
        found = rebase(text, now, changes(text, now))
        self.assertEqual((found.patches, found.conflicts), ([], []))

    @settings(deadline=None, max_examples=300)
    @given(patched(), Text)
    def test_every_edit_is_merged_or_in_conflict_or_there_already(
        self, made: tuple[str, list[Patch]], now: str
    ) -> None:
        text, patches = made
        own = changes(text, now)
        found = rebase(text, now, patches)
        told = {edit for one in (*found.patches, *found.conflicts) for edit in one.edits}
        same = {(one.start, one.end, one.text) for one in own}
        for patch in patches:
            parts = narrowed(text, [patch])
            if not all((one.start, one.end, one.text) in same for one in parts):
                self.assertIn(patch.edits[0], told)
        for one in found.conflicts:
            self.assertEqual(now[one.start : one.end], one.ours)
        ends = sorted((one.start, one.end) for one in found.conflicts)
        self.assertTrue(all(end <= start for (_, end), (start, _) in pairwise(ends)), ends)

    @settings(deadline=None, max_examples=200)
    @given(Text, Text, Text, st.sampled_from(("paper", "stone")))
    def test_changes_in_other_paragraphs_are_both_there(self, above: str, below: str, mine: str, word: str) -> None:
        base = f"First {word}.\n\nA middle that nobody touches, for long enough.\n\nLast words.\n"
        now = base.replace("Last words.", f"Last {below or 'changed'} words.")
        at = base.index(word)
        found = rebase(base, now, [Patch(at, at + len(word), f"<{mine}>", (0,))])
        self.assertEqual(found.conflicts, [])
        self.assertEqual(applied(now, found.patches), now.replace(word, f"<{mine}>", 1))


class Undecided(FolderCase):
    @settings(deadline=None, max_examples=200)
    @given(patched(), st.lists(st.sampled_from(("A", "B")), min_size=8, max_size=8))
    def test_all_versions_stand_in_the_page_and_ours_is_what_it_was(
        self, made: tuple[str, list[Patch]], who: list[str]
    ) -> None:
        text, patches = made
        versions = [
            Version(one.start, one.end, one.text, who[at], "AB".index(who[at])) for at, one in enumerate(patches)
        ]
        shown = with_versions(text, versions)
        kept, is_other = list[str](), False
        for line in shown.split("\n"):
            is_other = (is_other or line == BETWEEN) and not line.startswith(THEIRS)
            if not (is_other or line == OURS or line.startswith(THEIRS)):
                kept.append(line)
        self.assertEqual("\n".join(kept), text, shown)
        self.assertEqual(shown.count(OURS), shown.count(THEIRS))
        for one in versions:
            self.assertTrue(all(line in shown for line in one.words.split("\n")))

    @settings(deadline=None, max_examples=200)
    @given(patched(), st.integers(0, 60), st.integers(0, 60))
    def test_they_keep_their_words_after_other_changes(
        self, made: tuple[str, list[Patch]], one: int, other: int
    ) -> None:
        text, patches = made
        start, end = sorted((min(one, len(text)), min(other, len(text))))
        apart = [patch for patch in patches if patch.end < start or patch.start > end]
        moved = carried([Version(start, end, "x", "A")], apart)[0]
        self.assertEqual(applied(text, apart)[moved.start : moved.end], text[start:end])
