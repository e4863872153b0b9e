"""What a record of a pressing holds: every kind of part, its values where they stand, its numbers before they were rounded."""

from __future__ import annotations

import msgspec

from tests.support import FolderCase, worn
from wornpage.colophon import colophon_of
from wornpage.press import Order, press, press_order, proof_of
from wornpage.showing.keeping import LARGEST, Kept, same, sound
from wornpage.showing.parts import HOLE, Figure, Part, Showing, Table, Words, asked
from wornpage.showing.taking import showing_of

PAGE = """
    ---
    title: "Rooms of {= town}"
    subtitle: A record
    abstract: "All {= 3} rooms."
    date: when-pressed
    ---

    ```python run #load show=nothing
    import matplotlib.pyplot as plt
    town, damp = "Marlow", [61.24, 48.0, 55.5]
    ```

    # Damp {= max(damp) as 0 decimals}

    - An item of {= len(damp)}, see {see plot}.

    > A quotation with $x^2$ and {= damp[0] as 1 decimal}.[^n]

    [^n]: A note on {= damp[1]}.

    Term {= 7}
    :   Its meaning, {= 8}.

    ::: note Mind

    In a box: {= "a text"}.

    :::

    | room | damp |
    |------|------|
    | one  | {= damp[2]} |

    Caption: By hand, {= 1}.

    ```python run #plot
    plt.figure(figsize=(3, 2)); plt.plot(damp)
    ```

    Caption: Of {= town}.

    ```python run #table show=output
    page.table({"room": ["a", "b", "c"], "damp": damp}, caption="Told by *code*.", label="told", decimals=0, groups={"damp ones": ["a", "b"], "dry": ["c"]})
    print(f"printed {damp[0]}")
    ```

    $$ y = x $$
    Label: line
    """


class Taking(FolderCase):
    def showing(self, text: str = PAGE, name: str = "page.md") -> Showing:
        path = self.write(name, text.replace(', groups={"damp ones": ["a", "b"], "dry": ["c"]}', ""))
        proof = proof_of(Order(path, str(path)))
        return showing_of(
            proof.source, proof.composed, proof.record, colophon_of(proof.source, proof.settings, proof.record)
        )[0]

    def of(self, parts: tuple[Part, ...], kind: str) -> list[Words]:
        return [part for part in parts if isinstance(part, Words) and part.kind == kind]

    def test_every_part_is_there_in_its_order(self) -> None:
        parts = self.showing().parts
        said = [part.text if isinstance(part, Words) else part.caption for part in parts]
        wanted = ["Rooms of Marlow", "A record", "All 3 rooms.", "1 Damp 61", "An item of 3, see Figure 1.", "A quotation with x squared and 61.2.", "A note on 48.", "Term 7", "Its meaning, 8.", "In a box: a text.", "By hand, 1.", "Of Marlow.", "Told by code.", "printed 61.24"]  # fmt: skip
        places = [said.index(one) for one in wanted]
        self.assertEqual(places, sorted(places), said)
        self.assertEqual([part.kind for part in parts[:3] if isinstance(part, Words)], ["title", "title", "summary"])
        self.assertEqual([part.text for part in self.of(parts, "formula")], ["y = x"])
        self.assertNotIn("2026", " ".join(said[:3]), "the day of pressing is no part of it")

    def test_values_stand_in_their_places_with_all_their_digits(self) -> None:
        parts = self.showing().parts
        quoted = next(part for part in self.of(parts, "paragraph") if part.text.startswith("A quotation"))
        (value,) = quoted.values
        self.assertEqual(
            (value.said, value.number, asked(value), value.place), ("61.2", 61.24, "= damp[0]", "page.md:17:30")
        )
        self.assertEqual(quoted.between, ["A quotation with x squared and ", "."])
        self.assertEqual(quoted.frame, f"A quotation with x squared and {HOLE}.")
        item = next(part for part in self.of(parts, "paragraph") if part.text.startswith("An item"))
        self.assertEqual([one.said for one in item.values], ["3"], "a pointer is no value")

    def test_tables_and_figures(self) -> None:
        parts = self.showing().parts
        by_hand, told = (part for part in parts if isinstance(part, Table))
        self.assertEqual(
            (by_hand.name, by_hand.rows, [one.said for one in by_hand.values], by_hand.exact),
            ("Table 1", (("one", "55.5"),), ["1", "55.5"], ()),
        )
        self.assertEqual((told.label, told.chunk, told.heads), ("told", "table", ("room", "damp")))
        self.assertEqual((told.rows[0], told.exact[0]), (("a", "61"), (None, 61.24)))
        (figure,) = (part for part in parts if isinstance(part, Figure))
        self.assertEqual(
            (figure.label, figure.name, len(figure.pictures), figure.pictures[0].format), ("plot", "Figure 1", 1, "svg")
        )
        self.assertEqual([one.said for one in figure.values], ["Marlow"])

    def test_chunks_know_what_they_went_by_and_places_hang_on_no_folder(self) -> None:
        one, other = self.showing(), self.showing(name="deep/er/page.md")
        self.assertEqual(
            [(chunk.label, chunk.above) for chunk in one.chunks],
            [("load", ()), ("plot", ("load",)), ("table", ("load",))],
        )
        self.assertEqual([part.place for part in one.parts], [part.place for part in other.parts])
        self.assertTrue(same(one, msgspec.json.decode(msgspec.json.encode(one), type=Showing)))
        self.assertFalse(same(one, self.showing(PAGE.replace("48.0", "48.1"))))

    def test_numbers_that_no_record_holds_are_none_or_rounded(self) -> None:
        parts = self.showing(
            "```python run #a\nx = [float('nan'), float('inf'), 10**400, 2**60, True, 'a']\n```\n\nOf {= x[2]}, {= x[3]}, {= x[4]}, {= x[5]}.\n"
        ).parts
        (words,) = self.of(parts, "paragraph")
        self.assertEqual([one.number for one in words.values], [None, float(2**60), None, None])

    def test_what_is_kept_can_be_had_again_and_large_files_are_not(self) -> None:
        self.write("small.csv", "a\n1\n")
        self.write("large.csv", "x" * (LARGEST + 1))
        page = self.write(
            "page.md",
            "```python run #a show=nothing\nn = len(open('small.csv').read()) + len(open('large.csv').read())\n```\n\n{= n}\n",
        )
        press(page, ["html"])
        kept = Kept(page)
        (showing,) = kept.all()
        self.write("small.csv", "gone")
        self.assertEqual(kept.bytes_of(showing.data["small.csv"]), b"a\n1\n")
        self.assertIsNone(kept.bytes_of(showing.data["large.csv"]))
        for strange in ("../../etc/passwd", "", "0" * 32):
            self.assertIsNone(kept.bytes_of(strange))

    def test_editions_that_are_gone_and_pressings_of_a_desk_leave_nothing(self) -> None:
        text = "---\ngiven: {{room: 1}}\neditions: {{combine: {{room: [{}]}}}}\n---\n\n{{= given.room}}\n"
        page = self.write("page.md", text.format("1, 2"))
        worn("press", "page.md", "--all-editions", folder=self.folder)
        self.assertEqual([len(list(Kept(page, edition).all())) for edition in ("1", "2")], [1, 1])
        self.write("page.md", text.format("2"))
        worn("press", "page.md", "--all-editions", folder=self.folder)
        self.assertEqual([bool(list(Kept(page, edition).all())) for edition in ("1", "2")], [False, True])
        Kept(page, "2").forget()
        self.assertEqual(list((self.folder / ".worn").rglob("*.shown")), [])
        press_order(Order(page, str(page), ["html"], kept_as="a wish"), None)
        self.assertEqual(list(Kept(page).all()), [])

    def test_letters_that_no_file_can_hold_have_a_sign_in_their_place(self) -> None:
        broken = Showing("t", (Words("paragraph", "a\udce9b"),), data={"caf\udce9.csv": "1"})
        self.assertEqual((sound(broken).parts[0], list(sound(broken).data)), (Words("paragraph", "a?b"), ["caf?.csv"]))
        whole = Showing("t", (Words("paragraph", "é"),))
        self.assertIs(sound(whole), whole)
