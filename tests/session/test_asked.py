"""`page`: what chunks ask for, as the data they send."""

from tests.session.test_session import SessionCase
from wornpage.session.results import (
    Shown,
    ShownFigure,
    ShownHeading,
    ShownProse,
    ShownTable,
    shown_from_data,
    shown_to_data,
)
from wornpage.tree.table import TableData, Told, Value

FRAME = "import pandas as pd\nf = pd.DataFrame({'who': ['b', 'a', 'b'], 'x': [1.5, 2.5, 4.0], 'lo': [1, 2, 3], 'hi': [2, 3, 5]})\n"
FIT = (
    "class Fit:\n"
    "    params, bse = pd.Series({'one': 1.0, 'two': -2.0}), pd.Series({'one': 0.5, 'two': 0.25})\n"
    "    pvalues, nobs, rsquared = pd.Series({'one': 0.04, 'two': 0.0001}), 7.0, 0.5\n"
    "    def conf_int(self, alpha): return pd.DataFrame({0: self.params - 1, 1: self.params + 1})\n"
)


class Asked(SessionCase):
    """Each call is one thing shown."""

    def shown(self, code: str) -> tuple[Shown, ...]:
        result = self.run_code(code)
        self.assertIsNone(result.failure)
        blobs: dict[str, bytes] = {}

        def put(data: bytes) -> str:
            blobs[str(len(blobs))] = data
            return str(len(blobs) - 1)

        self.assertEqual(shown_from_data(shown_to_data(result.shown, put), blobs.__getitem__), result.shown)
        return result.shown

    def table(self, code: str) -> TableData:
        (item,) = self.shown(code)
        assert isinstance(item, ShownTable)
        return item.table

    def refused(self, call: str) -> str:
        failure = self.run_code(FRAME + call).failure
        assert failure is not None
        self.assertEqual([frame.file for frame in failure.last.frames], ["chunk:it"])
        return failure.last.message

    def test_a_table_takes_groups_intervals_heads_and_notes(self) -> None:
        table = self.table(
            FRAME
            + "page.table(f, 'Of {= len(f)}', label='t 1', groups='who', intervals={'x': ('lo', 'hi')}, heads={'x': 'Mean'},"
            " units={'x': 'cm'}, notes={'x': 'Head.', (1, 'x'): 'Cell.'}, forms={'x': '1 decimal'}, spans={'All': ['x']})"
        )
        (column,) = table.columns
        self.assertEqual([(group.row, group.words) for group in table.groups], [(0, "b"), (2, "a")])
        self.assertEqual(
            column.cells, (Value(1.5, 1, 2), Value(4.0, 3, 5), Value(2.5, 2, 3, marks="b"))
        )  # the note follows its row into its group
        self.assertEqual(column.heads, (Told("All"), Told("Mean (cm)")))
        self.assertEqual((column.marks, column.form, table.label), ("a", "1 decimal", "t-1"))
        self.assertEqual(table.caption, Told("Of {= len(f)}", ({"type": "whole", "value": 3},)))

    def test_a_mapping_or_rows_will_do_and_what_is_not_there_is_named(self) -> None:
        self.assertEqual(
            [c.heads for c in self.table("page.table({'a': [1, 2], 'b': ['x', 'y']})").columns], [("a",), ("b",)]
        )
        self.assertEqual(self.table("page.table([{'a': 1}, {'a': 2}])").columns[0].cells, (1, 2))
        self.assertRegex(self.refused("page.table(f, decimals={'y': 1})"), "no column 'y'")
        self.assertRegex(self.refused("page.table(f, groups='whom')"), "did you mean 'who'")
        self.assertRegex(self.refused("page.table(f, forms='percents')"), "no form")
        self.assertRegex(self.refused("page.table(f, heads=['a'])"), "4 columns, and 1")
        self.assertRegex(self.refused("page.table(f, align='middle')"), "align is")
        self.assertRegex(self.refused("page.table(f, notes={(9, 'x'): 'n'})"), "no row 9")

    def test_a_summary_counts_and_measures(self) -> None:
        table = self.table(FRAME + "page.summary(f, columns=['x', 'who'])")
        found = {(head if isinstance(head, str) else head.word): c.cells for c in table.columns for head in c.heads}
        self.assertEqual(found[""], ("x", "b", "a"))
        self.assertEqual(found["n"], (3, 2, 1))
        self.assertEqual(found["mean"][0], Value(8 / 3, decimals=1))
        self.assertEqual([group.words for group in table.groups], ["who"])
        by = self.table(FRAME + "page.summary(f, columns=['x'], by='who')")
        self.assertEqual([c.heads[0] for c in by.columns[1:]], ["a (n\u202f=\u202f1)", "b (n\u202f=\u202f2)"])
        self.assertEqual(by.columns[2].cells[0], Value(2.75, decimals=1, beside=Value(1.7677669529663689, decimals=1)))
        self.assertRegex(self.refused("page.summary(f, by='wh')"), "did you mean 'who'")

    def test_a_crosstab_adds_up(self) -> None:
        code = "g = pd.DataFrame({'r': list('aab'), 'c': list('xyx')})\n"
        counts = self.table(FRAME + code + "page.crosstab(g, 'r', 'c')")
        self.assertEqual([c.cells for c in counts.columns[1:]], [(1, 1, 2), (1, 0, 1), (2, 1, 3)])
        self.assertEqual(counts.foot, 1)
        shares = self.table(FRAME + code + "page.crosstab(g, 'r', 'c', shares='rows', totals=False)")
        self.assertEqual([c.cells for c in shares.columns[1:]], [(0.5, 1.0), (0.5, 0.0)])

    def test_models_are_read_by_what_they_offer(self) -> None:
        one = self.table(FRAME + FIT + "page.model(Fit(), interval=0.9, terms={'one': 'First'})")
        words = [head.word for column in one.columns[1:] for head in column.heads if isinstance(head, Told)]
        self.assertEqual(words, ["estimate", "error", "interval:90", "p"])
        self.assertEqual(one.columns[0].cells[0], Value(Told("First")))
        self.assertEqual(one.columns[3].cells[1], Value(None, -3.0, -1.0, 3))
        self.assertEqual((one.foot, one.columns[1].cells[2]), (2, Value(7, decimals=0)))
        several = self.table(FRAME + FIT + "page.model(Fit(), Fit(), names=['A', 'B'], stars=True, leave_out=['one'])")
        self.assertEqual(
            several.columns[2].cells[:2], (Value(-2.0, decimals=3, marks="***"), Value(0.25, decimals=3, brackets=True))
        )
        self.assertEqual(
            (several.continued, [note.words.word for note in several.notes]), ((1,), ["errors below", "stars"])
        )

    def test_models_of_statsmodels_side_by_side(self) -> None:
        table = self.table(
            "import numpy as np, pandas as pd, statsmodels.formula.api as smf\n"
            "x = np.arange(20.0)\nframe = pd.DataFrame({'x': x, 'z': x % 3, 'y': 2 * x + x % 2, 'b': (x % 2).astype(int)})\n"
            "page.model(smf.ols('y ~ x', frame).fit(), smf.ols('y ~ x + z', frame).fit(), smf.logit('b ~ z', frame).fit(disp=0))"
        )
        labels = [cell if isinstance(cell, str) else cell.content for cell in table.columns[0].cells]  # type: ignore[union-attr]
        self.assertEqual(labels[:6:2], ["Intercept", "x", "z"])
        feet = [label.word for label in labels if isinstance(label, Told)]
        self.assertEqual(feet, ["nobs", "rsquared", "rsquared_adj", "prsquared", "fvalue", "aic", "bic", "llf"])
        slopes = [column.cells[2].content for column in table.columns[1:]]  # type: ignore[union-attr]
        self.assertAlmostEqual(slopes[0], 2.0, delta=0.01)  # type: ignore[arg-type]
        self.assertEqual(slopes[2], "")

    def test_models_of_scipy_and_faults(self) -> None:
        code = "from scipy import stats, optimize\nimport numpy as np\nx = np.arange(5.0)\n"
        line = self.table(code + "page.model(stats.linregress(x, 2 * x + 1))")
        self.assertEqual([column.cells[1].content for column in line.columns[1:2]], [2.0])  # type: ignore[union-attr]
        curve = self.table(code + "page.model(optimize.curve_fit(lambda x, a: a * x, x, 3 * x))")
        self.assertAlmostEqual(curve.columns[1].cells[0].content, 3.0)  # type: ignore[union-attr, arg-type]
        test = self.table(code + "page.model(stats.ttest_ind(x, x + 1))")
        self.assertAlmostEqual(test.columns[-1].cells[0], 0.3465935)  # type: ignore[arg-type]
        self.assertRegex(self.refused("page.model(3)"), "cannot read int")
        self.assertRegex(self.refused("page.model()"), "at least one")

    def test_prose_headings_and_figures_carry_their_words(self) -> None:
        shown = self.shown(
            "import matplotlib.pyplot as plt\ndef tell(n):\n    page.prose('n is {= n as words}')\ntell(3)\n"
            "page.heading('Part {= 1 + 1}', level=3, label='p')\nfig, ax = plt.subplots(); ax.plot([1, 2])\n"
            "page.figure(ax, caption='A *line*', label='line')\nNone"
        )
        prose, heading, figure = shown
        self.assertEqual(prose, ShownProse(Told("n is {= n as words}", ({"type": "whole", "value": 3},))))
        self.assertEqual(heading, ShownHeading(Told("Part {= 1 + 1}", ({"type": "whole", "value": 2},)), 3, "p"))
        assert isinstance(figure, ShownFigure)
        self.assertEqual((figure.caption, figure.label), (Told("A *line*"), "line"))

    def test_the_name_page_is_anybodys_and_its_generator_follows_the_seed(self) -> None:
        self.assertEqual(
            self.texts("from wornpage import page as p, given as g\nprint(p is page, g is given)"),
            [("output", "True True\n")],
        )
        first = self.texts("print(page.rng().integers(1000), page.rng().integers(1000))")
        self.assertEqual(first, self.texts("print(page.rng().integers(1000), page.rng().integers(1000))"))
        one, other = first[0][1].split()
        self.assertNotEqual(one, other)
        self.assertEqual(self.texts("page = 3\nprint(page)"), [("output", "3\n")])

    def test_a_tally_gives_its_items_and_tells_how_far_it_is(self) -> None:
        told: list[tuple[str, int, int]] = []
        self.session.on_tally = lambda *parts: told.append(parts)
        self.assertEqual(self.texts("print(list(page.tally([1, 2], 'twos')))"), [("output", "[1, 2]\n")])
        self.assertEqual(told, [("twos", 0, 2)])
        self.assertEqual(self.texts("import sys; print('msgspec' in sys.modules)"), [("output", "False\n")])

    def test_marks_in_words_see_what_the_calling_code_sees_and_keep_its_spaces(self) -> None:
        code = (
            "top = [1, 2]\n"
            "def f(n):\n"
            "    local = n * 2\n"
            "    page.prose(\"{= local} {= sum(local for _ in 'ab')} {= [n + x for x in top][1]} {= 'a  b'}\")\n"
            "f(4)\n"
            "page.prose(\"{= 'c   d' +\\n   'e'}\")\n"
        )
        told = [item.told.answers for item in self.shown(code) if isinstance(item, ShownProse)]
        self.assertEqual(
            [[answer["value"] for answer in answers] for answers in told], [[8, 16, 6, "a  b"], ["c   de"]]
        )
