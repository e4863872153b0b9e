"""LaTeX sources with chunks: what is filled in, what is none of ours, and every fault in its own line."""

from __future__ import annotations

import datetime
import re
import shutil
import subprocess
import sys

from hypothesis import given
from hypothesis import strategies as st

from tests.output.tex.compiled import sheets_of
from tests.pages.reading import text_of_rst
from tests.support import FolderCase
from wornpage.press import PressingFailed, press
from wornpage.source.hosts import rst, tex
from wornpage.source.hosts.hosted import Literal
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError

PAPER = r"""% worn: given: {least: 50}
% a remark
% worn: chunks: {all: {show: output}}
\documentclass{article}
\usepackage[T1]{fontenc}
\usepackage{wornpage} % ours
\newcommand{\wornout}{worn out}
\begin{document}
\section{Rooms}\label{rooms}
% \worn{commented_out}
A \% sign, \worn{1 + 1}, a line\\% \worn{after_a_break}
and \verb|\worn{verbatim}| and \wornout.

\begin{chunk}{python}[label=load, show=source]
import pandas as pd
rooms = pd.DataFrame({"room": ["a_1", "b"], "damp": [61.5, 48]})
\end{chunk}

There are \worn{len(rooms)} rooms, \worn{rooms.damp.mean()}[1 decimal] on average, \worn{len(rooms) \% 2} left, \worn{{"k": "v & w"}["k"]}.
\begin{table}
\caption{The rooms.}\label{tab}
\begin{chunk}{python}[label=show]
rooms[rooms.damp > given.least].set_index("room")
\end{chunk}
\end{table}
\begin{figure}
  \begin{chunk}{python}[label=plot, width=8cm, alt="A line, rising"]
  import matplotlib.pyplot as plt
  for k in [1]:
      plt.plot([k, 2])
  \end{chunk}
  \caption{A line.}\label{fig}
\end{figure}
See Figure~\ref{fig}.
\begin{verbatim}
\begin{chunk}{python}
never
\end{chunk}
\end{verbatim}
\end{document}
\worn{behind_the_end}
"""


class Sources(FolderCase):
    def test_results_stand_in_their_places_and_all_else_stays(self) -> None:
        page = self.write("paper.tex", PAPER.encode())
        pressing = press(page, ["tex"])
        made = (self.folder / "paper.pressed.tex").read_text(encoding="utf-8")
        self.assertEqual(page.read_text(encoding="utf-8"), PAPER)
        for piece in (
            r"A \% sign, 2, a line\\% \worn{after_a_break}", "There are 2 rooms, 54.8 on average, 0 left, v \\& w.", r"a\_1 & 61.5 \\", r"\includegraphics[width=8cm, alt={A line, rising}]{paper.pressed-files/plot.pdf}",
            "\\usepackage{paper.pressed-files/wornpage} % ours", "\\verb|\\worn{verbatim}| and \\wornout.", "\\begin{verbatim}\n\\begin{chunk}{python}\nnever\n\\end{chunk}", "% \\worn{commented_out}", "\\worn{behind_the_end}\n",
        ):  # fmt: skip
            self.assertIn(piece, made)
        self.assertNotIn("worn-place", made)
        self.assertFalse(pressing.warnings)
        text = sheets_of(self.folder / "paper.pressed.tex")
        self.assertIn("There are 2 rooms, 54.8 on average, 0 left, v & w.", text)
        self.assertIn("See Figure 1.", text)
        shutil.copy(self.folder / "paper.pressed-files" / "wornpage.sty", self.folder)
        self.assertIn("len(rooms)", sheets_of(page), "the source itself, as it is")

    def test_what_has_not_changed_is_reused_and_values_can_be_given(self) -> None:
        page = self.write("paper.tex", PAPER.encode())
        press(page, ["tex"])
        self.write("paper.tex", PAPER.replace("on average", "in the mean").encode())
        self.assertEqual({str(one.outcome) for one in press(page, ["tex"]).chunks}, {"reused"})
        again = press(page, ["tex"], given={"least": 40})
        self.assertEqual([one.label for one in again.chunks if str(one.outcome) == "ran"], ["show"])
        self.assertIn("b & 48.0", (self.folder / "paper.pressed.tex").read_text())

    def test_the_program_knows_which_output_is_the_usual_one(self) -> None:
        self.write("paper.tex", PAPER.encode())
        for expected in ("paper.pressed.tex\n", "paper.pressed.tex  (unchanged)\n"):
            done = subprocess.run([sys.executable, "-m", "wornpage", "press", "paper.tex"], cwd=self.folder, capture_output=True, text=True, check=False)  # fmt: skip
            self.assertEqual((done.stdout, done.returncode), (expected, 0), done.stderr)
        with self.assertRaisesRegex(
            PageError, r"paper.tex:\d+:1: a page that is written in `tex` cannot be had as 'html'"
        ):
            press(self.folder / "paper.tex", ["html"])

    def test_sheets_and_their_faults_in_lines_of_the_source(self) -> None:
        page = self.write("paper.tex", PAPER.encode())
        press(page, ["tex-pdf"])
        first = (self.folder / "paper.tex.pdf").read_bytes()
        press(page, ["tex-pdf"], afresh=True)
        self.assertEqual(first, (self.folder / "paper.tex.pdf").read_bytes())
        self.write("paper.tex", PAPER.replace("See Figure", "See \\nosuch Figure").encode())
        line = PAPER[: PAPER.index("See Figure")].count("\n") + 1
        with self.assertRaisesRegex(PageError, rf"paper\.tex:{line}:1: LaTeX: Undefined control sequence"):
            press(page, ["tex-pdf"])

    def test_the_day_that_is_printed_is_the_day_of_the_pressing(self) -> None:
        text = "\\documentclass{article}\n\\begin{document}\nOn \\the\\year{} \\worn{1}.\n\\end{document}\n"
        press(self.write("dated.tex", text.encode()), ["tex-pdf"])
        made = subprocess.run(
            ["pdftotext", str(self.folder / "dated.tex.pdf"), "-"], capture_output=True, text=True, check=True
        )
        self.assertIn(f"On {datetime.datetime.now().year} 1.", made.stdout)

    def test_faults_are_told_in_their_places(self) -> None:
        for old, new, told in (
            (
                "rooms.damp.mean()}",
                "rooms.dampp.mean()}",
                r"paper.tex:19:36: the value mark .* fails: AttributeError.*Did you mean 'damp'|paper.tex:19:\d+: .*dampp",
            ),
            ('"damp": [61.5, 48]})', '"damp": [61.5]})', r"paper.tex:16(:\d+)?\b"),
            ("label=show]", "label=sh ow]", r"paper.tex:22:23: 'sh ow' cannot be a label"),
            ("width=8cm", "widht=8cm", r"paper.tex:27:\d+: there is no option 'widht'.*Did you mean 'width'"),
            ("[1 decimal]", "[1 decimel]", r"paper.tex:19:36: a value has no form '1 decimel'"),
            ("{least: 50}", "{least: 50, least: 60}", r"paper.tex:1:"),
            (
                "[label=load, show=source]",
                "[label=load, loud]",
                r"paper.tex:14:\d+: 'loud' has no place among a chunk's options",
            ),
            ("\\end{table}", "", None),
            (
                'rooms[rooms.damp > given.least].set_index("room")\n\\end{chunk}\n',
                "rooms\n",
                r"paper.tex:22:1: the chunk that begins here does not end before the one in line 26",
            ),
            (
                "\\worn{1 + 1}",
                "\\worn{1 + 1",
                r"paper.tex:11:12: the brace of this value is never closed|paper.tex:\d+",
            ),
            ("\\worn{1 + 1}", "\\worn", r"paper.tex:11:12: this value has no expression"),
        ):
            text = PAPER.replace(old, new, 1)
            with self.subTest(new):
                page = self.write("paper.tex", text.encode())
                if told is None:
                    press(page, ["tex"])  # which is LaTeX's to say
                    continue
                with self.assertRaises((PageError, PressingFailed)) as caught:
                    press(page, ["tex"])
                self.assertRegex(str(caught.exception), told)

    def test_a_part_that_is_input_elsewhere_needs_no_document(self) -> None:
        press(self.write("part.tex", b"Of \\worn{2 * 3} rooms.\n"), ["tex"])
        self.assertEqual((self.folder / "part.pressed.tex").read_text(), "Of 6 rooms.\n")

    @given(st.lists(st.sampled_from(["word ", "\n", "% c\n", r"\worn{x}", r"\worn{f({1: 2})}[percent]", r"\\", r"\%", "\\begin{chunk}{python}\nx = 1\n\\end{chunk}\n", r"\verb|\worn{|", "{", "}", "\\end{chunk}\n", "\\begin{chunk}\n", "ü"]), max_size=12))  # fmt: skip
    def test_all_of_a_text_is_in_its_pieces(self, parts: list[str]) -> None:
        text = "".join(parts)
        read = tex.read(text, "t.tex")
        lines = text.split("\n")
        spans = iter(read.blocks)
        whole = ""
        for piece in read.pieces:
            if isinstance(piece, Literal):
                self.assertEqual(whole.count("\n") + 1, piece.line)
                whole += piece.text
                continue
            block = next(spans)
            self.assertEqual(block.span, piece)
            self.assertEqual((len(whole.split("\n")), len(whole.split("\n")[-1]) + 1), (piece.line, piece.column))
            shown = text[len(whole) :]
            found = re.match(r"\\begin\{chunk\}.*?^[ \t]*\\end\{chunk\}", shown, re.DOTALL | re.MULTILINE) if isinstance(block, n.Chunk) else re.match(r"\\worn\s*\{(?:[^{}]|\{[^{}]*\})*\}(\[[^\]]*\])?", shown)  # fmt: skip
            if found is None:
                return
            whole += found[0]
        self.assertEqual(whole, text)
        self.assertGreaterEqual(len(lines), 1)


PLAIN = """<!DOCTYPE html>
<!-- worn:
given: {least: 50}
chunks: {all: {show: output}}
-->
<html><head><title>Rooms</title></head><body>
<!-- <worn-value>never</worn-value> --><script>"<worn-value>x</worn-value>"</script>
<worn-chunk language="python" label="load" show="source"><!--
rooms = {"a": 61.5, "b": 48}
damp = [k for k, v in rooms.items() if v > given.least]
--></worn-chunk>
<p>Of <worn-value>len(rooms)</worn-value> rooms <worn-value form="percent">len(damp) / 2</worn-value>; <worn-value>"a &lt; b"</worn-value>.</p>
  <worn-chunk language='python' label=plot alt="A line">
  page.prose("Said by *code*.")
  print("<b>")
  </worn-chunk>
</body></html>
"""


class Html(FolderCase):
    def test_results_stand_in_their_places_and_all_else_stays(self) -> None:
        page = self.write("page.html", PLAIN.encode())
        press(page, ["html"])
        made = (self.folder / "page.pressed.html").read_text(encoding="utf-8")
        for piece in ("<p>Of 2 rooms 50.0%; a &lt; b.</p>", "<em>code</em>", "&lt;b&gt;", "<!-- <worn-value>never</worn-value> -->", '<script>"<worn-value>x</worn-value>"</script>', "v &gt; given.least", ".worn-result"):  # fmt: skip
            self.assertIn(piece, made)
        self.assertNotIn("<worn-chunk", made)
        self.assertEqual(page.read_text(encoding="utf-8"), PLAIN)
        self.assertEqual({str(one.outcome) for one in press(page, ["html"]).chunks}, {"reused"})
        with self.assertRaisesRegex(PageError, "cannot be had as 'pdf'"):
            press(page, ["pdf"])

    def test_faults_are_told_in_their_places(self) -> None:
        for old, new, told in (
            ("len(damp) / 2", "len(dampp) / 2", r"page.html:12:\d+: .*dampp"),
            ('"b": 48}', '"b": 1/0}', r"page.html:9:1: in chunk `load`: ZeroDivisionError"),
            ('print("<b>")', "print(nothing)", r"page.html:15:\d+: in chunk `plot`: NameError"),
            ("label=plot", "label=pl_ot", r"page.html:13:\d+: 'pl_ot' cannot be a label"),
            ("language='python' ", "", r"page.html:13:3: this chunk names no language"),
            ("</worn-chunk>\n</body>", "</body>", r"page.html:13:3: the `<worn-chunk>` that begins here never ends"),
            ("least: 50", "least: [", r"page.html:\d"),
        ):
            with self.subTest(new), self.assertRaises((PageError, PressingFailed)) as caught:
                self.assertIn(old, PLAIN)
                press(self.write("page.html", PLAIN.replace(old, new, 1).encode()), ["html"])
            self.assertRegex(str(caught.exception), told)

    def test_markdown_in_a_file_of_that_name_is_told_and_never_written_over(self) -> None:
        text = b"---\ntitle: t\n---\n```python run\n1\n```\n"
        warnings = press(self.write("page.html", text), ["html"]).warnings
        self.assertIn("nothing in this file is a chunk or a value", str(warnings[0]))
        self.assertEqual((self.folder / "page.html").read_bytes(), text)


MANUAL = """.. worn: given: {least: 50}
.. worn: chunks: {all: {show: output}}

.. a remark with :worn:`commented_out`

The ``:worn:`literal```, :worn:`1 + 1`, and::

    :worn:`verbatim`

.. chunk:: python
   :label: load
   :show: source

   rooms = {"a_1": 61.5, "b": 48, "*c*": -3}

:worn:`len(rooms) * 1000 as thousands` rooms
--------------------------------------------

The :worn:`len(rooms)`\\ th; :worn:`"*stars* and |bars| and word_"`.
:worn:`"- no item"` begins a line, :worn:`f"\\`{rooms['b']}\\`"`.

#. One

   .. chunk:: python
      :label: show

      damp = {"room": [k for k in rooms if rooms[k] > given.least], "note": ["x|y"]}
      page.table(damp, caption="Damp *rooms*, see `x`.", label="damp")

+--------------------+--------+
| a                  | b      |
+====================+========+
| :worn:`len(rooms)` | 2      |
+--------------------+--------+

=========================  ======
what                       is
=========================  ======
:worn:`"a long value" * 4` 1
:worn:`3`                  2
=========================  ======

.. note:: Mind :worn:`rooms["b"]`.

   .. chunk:: python
      :label: plot
      :width: 8cm
      :alt: A line, rising

      import matplotlib.pyplot as plt
      for k in [1]:
          plt.plot([k, 2])
      print("    deep\\n  less | *x*")

See `the figure <plot_>`__ and damp_.
"""


class Rst(FolderCase):
    def test_results_stand_in_their_places_and_all_else_stays(self) -> None:
        page = self.write("manual.rst", MANUAL.encode())
        done = subprocess.run([sys.executable, "-m", "wornpage", "press", "manual.rst"], cwd=self.folder, capture_output=True, text=True, check=False)  # fmt: skip
        self.assertEqual((done.stdout, done.returncode), ("manual.pressed.rst\n", 0), done.stderr)
        made = (self.folder / "manual.pressed.rst").read_text(encoding="utf-8")
        for piece in ("The ``:worn:`literal```, 2, and::\n\n    :worn:`verbatim`", "3,000 rooms\n-----", "   .. _damp:\n\n   .. table:: **Table 1.** Damp *rooms*, see ``x``.", "| 3                  | 2      |", "|worn1|                    1\n3                          2", "   .. _plot:", ".. a remark with :worn:`commented_out`", ".. |worn1| replace:: a long valuea"):  # fmt: skip
            self.assertIn(piece, made)
        self.assertEqual(page.read_text(encoding="utf-8"), MANUAL)
        text = text_of_rst(self.folder / "manual.pressed.rst")
        for words in ("The 3th; *stars* and |bars| and word_. - no item begins a line, `48`.", "a_1 x|y", "deep less | *x*", "a long valuea long value", "Mind 48."):  # fmt: skip
            self.assertIn(words, text)
        self.assertNotIn("complains", text)
        again = press(page, ["rst"], given={"least": 60})
        self.assertEqual([one.label for one in again.chunks if str(one.outcome) == "ran"], ["show"])

    def test_faults_are_told_in_their_places(self) -> None:
        for old, new, told in (
            ('rooms["b"]`.', 'roms["b"]`.', r"manual.rst:43:16: .*roms"),
            ('"b": 48', '"b": 1/0', r"manual.rst:14:\d+: in chunk `load`: ZeroDivisionError"),
            ("plt.plot([k, 2])", "plt.plot([k, nothing])", r"manual.rst:52:\d+: in chunk `plot`: NameError"),
            (":label: plot", ":label: pl ot", r"manual.rst:46:8: 'pl ot' cannot be a label"),
            (":show: source", ":shwo: source", r"manual.rst:12:5: there is no option 'shwo'"),
            (".. chunk:: python\n   :label: load", ".. chunk::\n   :label: load", r"manual.rst:10:1: this chunk names no language"),
            ("   :show: source\n\n", "   :show: source\n", r"manual.rst:13:1: code cannot begin right below"),
            ("{least: 50}", "{least: 50, least: 60}", r"manual.rst:1:"),
            ("Mind :worn:`rooms", "Mind :worn: `rooms", None),
            ("as thousands", "as thousend", r"manual.rst:16:1: a value has no form 'thousend'"),
        ):  # fmt: skip
            with self.subTest(new):
                page = self.write("manual.rst", MANUAL.replace(old, new, 1).encode())
                if told is None:
                    press(page, ["rst"])  # which is a reader's to say
                    continue
                with self.assertRaises(PageError) as caught:
                    press(page, ["rst"])
                self.assertRegex(str(caught.exception), told)

    @given(st.lists(st.sampled_from(["word ", "\n", "\n\n", ":worn:`x`", ":worn:`a as percent` ", "``:worn:`b```", ":worn:`", "   ", ".. chunk:: python\n\n   x = 1\n", ".. chunk:: r\n   :label: a\n", "..", "::\n\n    lit\n", "ü", "`"]), max_size=12))  # fmt: skip
    def test_all_of_a_text_is_in_its_pieces(self, parts: list[str]) -> None:
        text = "".join(parts)
        read, at, spans = rst.read(text, "t.rst"), 0, []
        for piece in read.pieces:
            if isinstance(piece, Literal):
                self.assertEqual(text[at : at + len(piece.text)], piece.text) if not spans else None
                found = text.find(piece.text, at)
                self.assertGreaterEqual(found, at)
                at = found + len(piece.text)
            else:
                spans.append(piece)
        self.assertEqual([block.span for block in read.blocks], spans)
