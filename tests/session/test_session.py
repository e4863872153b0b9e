"""A session: what it captures, and how it ends badly."""

import time
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

from hypothesis import given, settings
from hypothesis import strategies as st

from wornpage.session.messages import Inbox, pack
from wornpage.session.process import ProcessSession
from wornpage.session.reading import KEPT, Stream
from wornpage.session.results import ChunkResult, Printed, ShownFigure, ShownHtml, ShownTable, ShownText
from wornpage.session.tasks import ChunkTask, Environment, MarkTask


class SessionCase(unittest.TestCase):
    """One session a test."""

    def setUp(self) -> None:
        place = TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name).resolve()
        self.session = ProcessSession()
        self.addCleanup(self.session.close)
        self.session.open(Environment(self.folder, "page.md", {"damp-above": 60}))

    def run_code(self, code: str, timeout: float | None = 30, **options: float) -> ChunkResult:
        return self.session.run(ChunkTask("it", code, 7, timeout, **options)).result  # type: ignore[arg-type]

    def texts(self, code: str) -> list[tuple[str, str]]:
        """Role and text of all that code prints."""
        return [(item.role, item.text) for item in self.run_code(code).shown if isinstance(item, Printed)]


class Captured(SessionCase):
    """What a chunk shows, in order."""

    def test_everything_written_to_descriptors_1_and_2_is_captured_in_its_place(self) -> None:
        code = (
            "import ctypes, os, sys, warnings\n"
            "print('one'); os.system('echo two'); ctypes.CDLL(None).puts(b'three'); ctypes.CDLL(None).fflush(None)\n"
            "warnings.warn('careful'); print('four'); print('five', file=sys.stderr)\n6"
        )
        result = self.run_code(code)
        shown = [item.text for item in result.shown if isinstance(item, Printed | ShownText)]
        self.assertEqual(shown, ["one\ntwo\nthree\n", "UserWarning: careful", "four\n", "five\n", "6"])

    def test_it_starts_empty_in_the_page_folder_apart_from_given(self) -> None:
        (text,) = self.texts(
            "import os; print(os.getcwd(), sorted(n for n in globals() if n[0] != '_'), given.damp_above)"
        )
        self.assertEqual(text[1].strip(), f"{self.folder} ['given', 'os'] 60")
        failed = self.run_code("given.damp_above = 3").failure
        self.assertEqual(failed and failed.kind, "AttributeError")

    def test_frames_of_any_library_are_tables_with_typed_columns(self) -> None:
        makers = (
            "import pandas as pd; pd.DataFrame({'n': [1.5, None], 't': ['x', 'y']})",
            "import polars as pl; pl.DataFrame({'n': [1.5, None], 't': ['x', 'y']})",
            "import pyarrow as pa; pa.table({'n': [1.5, None], 't': ['x', 'y']})",
        )
        for code in makers:
            with self.subTest(code):
                (item,) = self.run_code(code).shown
                assert isinstance(item, ShownTable), item
                columns = item.table.columns
                self.assertEqual([(c.heads, str(c.kind), c.cells) for c in columns],
                                 [(("n",), "number", (1.5, None)), (("t",), "text", ("x", "y"))])  # fmt: skip

    def test_an_index_is_kept_only_where_it_means_something(self) -> None:
        code = "import pandas as pd; f = pd.DataFrame({'a': [3, 1, 2]}, index=INDEX); f.sort_values('a')"
        for index, kept in (("None", 0), ("list('xyz')", 1), ("pd.Index([7, 8, 9], name='year')", 1)):
            (item,) = self.run_code(code.replace("INDEX", index)).shown
            assert isinstance(item, ShownTable)
            self.assertEqual(sum(c.is_index for c in item.table.columns), kept, index)

    def test_every_open_figure_is_shown_at_its_size_with_the_same_bytes_each_time(self) -> None:
        code = "import matplotlib.pyplot as plt\nfor i in (1, 2):\n    plt.figure(); plt.plot([1, i])\nplt.gca().set_title('T')"
        first, second = self.run_code(code, width=12.0, height=6.0), self.run_code(code, width=12.0, height=6.0)
        figures = [item for item in first.shown if isinstance(item, ShownFigure)]
        self.assertEqual([(f.format, round(f.width), round(f.height)) for f in figures], [("svg", 12, 6)] * 2)
        self.assertEqual(figures[1].alt, "T")
        self.assertEqual(first.shown, second.shown)

    def test_a_figure_of_many_points_is_drawn_as_pixels_and_artists_show_nothing(self) -> None:
        result = self.run_code("import matplotlib.pyplot as plt, numpy as np\nplt.plot(np.arange(30000))")
        self.assertEqual(
            [type(item).__name__ + item.format for item in result.shown if isinstance(item, ShownFigure)],
            ["ShownFigurepng"],
        )
        self.assertEqual(len(result.shown), 1)

    def test_values_show_the_forms_they_offer_and_never_an_address(self) -> None:
        (rich,) = self.run_code("class R:\n    def _repr_html_(self): return '<b>x</b>'\nR()").shown
        assert isinstance(rich, ShownHtml)
        self.assertEqual(rich.html, "<b>x</b>")
        self.assertNotIn("0x", rich.text)

    def test_random_numbers_start_anew_at_every_chunk(self) -> None:
        code = "import random, numpy as np; (random.random(), np.random.rand(), np.random.default_rng().random())"
        self.assertEqual(self.run_code(code).shown, self.run_code(code).shown)

    def test_runaway_output_is_cut_with_bounded_memory(self) -> None:
        (item,) = self.run_code("for _ in range(1000): print('x' * 99_999)").shown
        assert isinstance(item, Printed)
        self.assertEqual(len(item.text), KEPT)
        self.assertEqual(item.bytes_cut, 100_000_000 - KEPT)

    def test_marks_find_values_or_say_why_not(self) -> None:
        self.run_code("import numpy as np, datetime; x = np.float64(2.5); d = datetime.date(2026, 3, 1)")
        asked = [MarkTask("p:1:1", e, f) for e, f in (("x", ""), ("d", ""), ("x", ".2f"), ("nope", ""), ("None", ""))]
        answers = [one.answer for one in self.session.answer(asked).answered]
        self.assertEqual(
            [(a.type, a.value) for a in answers[:3]], [("number", 2.5), ("date", "2026-03-01"), ("text", "2.50")]
        )
        self.assertEqual((answers[3].failure and answers[3].failure.name, answers[4].type), ("nope", "missing"))


class EndsBadly(SessionCase):
    """Failures name the line, and what was shown before is kept."""

    def test_an_exception_has_the_frames_of_the_chunk_and_none_of_ours(self) -> None:
        failure = self.run_code("def f(x):\n    return 1 / x\n\nf(0)").failure
        assert failure
        self.assertEqual(
            [(f.file, f.line, f.name) for f in failure.last.frames], [("chunk:it", 4, "<module>"), ("chunk:it", 2, "f")]
        )

    def test_a_syntax_error_has_its_column(self) -> None:
        failure = self.run_code("a = 1\nb = = 2").failure
        assert failure
        self.assertEqual([(f.line, f.column) for f in failure.last.frames], [(2, 5)])

    def test_a_crash_names_the_line_and_keeps_what_was_printed(self) -> None:
        endings = {
            "import os\nprint('before', flush=True)\nos._exit(3)": "os._exit",
            "import ctypes\nprint('before', flush=True)\nctypes.string_at(0)": "segmentation",
            "import os\nprint('before', flush=True)\nos.kill(os.getpid(), 9)": "memory",
        }
        for code, word in endings.items():
            with self.subTest(word), ProcessSession() as session:
                session.open(Environment(self.folder, "page.md"))
                result = session.run(ChunkTask("it", code, 1, None)).result
                assert result.failure
                self.assertEqual((result.failure.kind, result.shown), ("crash", (Printed("before\n", "output"),)))
                self.assertIn(word, result.failure.last.message)
                if word != "memory":
                    self.assertEqual(result.failure.last.frames[-1].line, 3)

    def test_exit_is_told_apart(self) -> None:
        failure = self.run_code("x = 1\nexit(4)").failure
        assert failure
        self.assertEqual((failure.kind, failure.status, failure.last.frames[-1].line), ("SystemExit", "4", 2))

    def test_a_timeout_interrupts_and_names_the_line_even_if_the_chunk_will_not_listen(self) -> None:
        failure = self.run_code("import time\nwhile True:\n    time.sleep(0.05)", timeout=0.3).failure
        assert failure
        self.assertEqual((failure.kind, failure.last.frames[-1].line), ("timeout", 3))
        self.assertIsNotNone(self.session._process.poll())

    def test_the_session_ends_with_its_children(self) -> None:
        (text,) = self.texts("import subprocess; print(subprocess.Popen(['sleep', '60']).pid)")
        self.session.close()
        stat = Path(f"/proc/{int(text[1])}/stat")
        for _ in range(200):
            if not stat.exists() or stat.read_text().rpartition(")")[2].split()[0] == "Z":
                return
            time.sleep(0.01)
        self.fail("the child is still there")


class Wires(unittest.TestCase):
    """Bytes on their way."""

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.tuples(st.text(max_size=9), st.lists(st.binary(max_size=9), max_size=2)), max_size=5),
        st.integers(1, 7),
    )
    def test_messages_arrive_whole_however_they_are_cut(self, sent: list[tuple[str, list[bytes]]], step: int) -> None:
        data = b"".join(pack({"text": text}, blobs) for text, blobs in sent)
        inbox, received = Inbox(), []
        for start in range(0, len(data), step):
            received += inbox.feed(data[start : start + step])
        self.assertEqual(received, [({"text": text}, blobs) for text, blobs in sent])

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.text(alphabet="abS\n", max_size=12), min_size=1, max_size=5), st.integers(1, 5))
    def test_output_is_cut_at_sentinels_however_it_arrives(self, stretches: list[str], step: int) -> None:
        sentinel = b"SENTINEL"
        data = b"".join(text.encode() + sentinel for text in stretches)
        stream = Stream(sentinel)
        for start in range(0, len(data), step):
            stream.feed(data[start : start + step])
        self.assertEqual([written.text for written in stream.take()], stretches)
