"""Workbooks: numbers are numbers, text is never a formula, an office's own keeps all that was not filled."""

from __future__ import annotations

import datetime
import math
import re
import subprocess
import zipfile
from pathlib import Path
from typing import Any

import openpyxl
from hypothesis import given
from hypothesis import strategies as st
from openpyxl.chart import BarChart, Reference
from openpyxl.styles import Font, PatternFill
from openpyxl.workbook.defined_name import DefinedName

from tests.output.docx.documents import invalid
from tests.support import FolderCase
from wornpage.output.xlsx.names import SheetNames, cell_name
from wornpage.output.xlsx.values import Held, held, of_form
from wornpage.press import PressingFailed, press
from wornpage.tree.problem import PageError
from wornpage.tree.sheetcells import column_of, letters_of, place_of

PAGE = """
---
title: Rooms & "more"
authors: [{name: Ada Lund}]
date: 2026-03-02
press: {xlsx: {figures: yes, results: {Volumes: len(rooms), "Share, damp": "share as percent", As of: day, "R1C1": "'=1+1'"}}}
---

```python run #top show=nothing
import datetime as dt, pandas as pd, matplotlib.pyplot as plt
share, day = 0.1234, dt.date(2026, 3, 1)
rooms = pd.DataFrame({
    "room": ["=HYPERLINK(1)", "+a", "-b", "@c", " d\\ne"], "n": [1, 22, 333, 4444, 10**17], "share": [0.1, 0.25, 0.5, None, float("inf")],
    "day": pd.to_datetime(["2026-01-02", "2026-01-03 10:30", "1850-01-01", None, "2026-12-31"], format="mixed"), "open": [True, False, True, None, False]})
wide = pd.DataFrame({("a", "x"): [1.5, 2.25], ("a", "y"): [3, 4], ("b", "x"): [5, 6]}, index=pd.Index(["p", "q"], name="k"))
```

```python run #rooms show=output
page.table(rooms, forms={"share": "percent", "n": "thousands"}, notes={"n": "Told & counted."})
```
Caption: The rooms & halls, < 5.

```python run #wide show=output decimals=2
wide
```
Caption: Two heads.

| kind | cost |
|------|-----:|
| rag  | 1208.50 |
| 007  | -3  |
Caption: By hand.
Label: hand

```python run #grouped show=output
page.table(pd.DataFrame({"g": ["u", "u", "v"], "x": [1, 2, 3]}), groups="g")
```
Caption: In groups.

```python run #plot show=output
plt.plot([1, 2])
```
Caption: A line.
"""


class Workbook(FolderCase):
    def book(self, text: str = PAGE, **options: Any) -> Any:
        """The workbook of a page, as a library of its own reads it; valid by the standard's schemas."""
        page = self.write("page.md", text)
        self.result = press(page, ["xlsx"], **options)
        self.file = page.with_suffix(".xlsx")
        office = self.folder / "returns.xlsx"
        self.assertEqual(invalid(self.file), invalid(office) if office.is_file() else [])
        return openpyxl.load_workbook(self.file)

    def test_every_captioned_table_is_a_sheet_of_data(self) -> None:
        book = self.book()
        self.assertEqual(book.sheetnames, ["Contents", "Table 1", "Table 2", "Table 3", "Table 4", "Figures"])
        one = book["Table 1"]
        rows = [[cell.value for cell in row] for row in one["A3:E8"]]
        self.assertEqual(rows[0], ["room", "n (a)", "share", "day", "open"])
        self.assertEqual(rows[1], ["=HYPERLINK(1)", 1, 0.1, datetime.datetime(2026, 1, 2), True])
        self.assertEqual([row[0] for row in rows[1:]], ["=HYPERLINK(1)", "+a", "-b", "@c", " d\ne"])
        self.assertEqual({cell.data_type for cell in one["A"][3:8]}, {"s"})
        self.assertTrue(all(cell.style and cell.quotePrefix for cell in one["A"][3:7]))
        self.assertEqual(rows[2][3], datetime.datetime(2026, 1, 3, 10, 30))
        self.assertEqual([row[3] for row in rows[3:]], ["1850-01-01 00:00:00", None, datetime.datetime(2026, 12, 31)])
        self.assertEqual(([row[2] for row in rows[4:]], rows[5][1]), ([None, "∞"], str(10**17)))
        self.assertEqual((one["B4"].number_format, one["C4"].number_format), ("#,##0", "0.0%"))
        self.assertEqual(
            (one["A1"].value, one["A10"].value), ("Table 1. The rooms & halls, < 5.", "(a) Told & counted.")
        )
        self.assertEqual((one.freeze_panes, one.print_title_rows), ("A4", "$3:$3"))
        two = book["Table 2"]
        self.assertEqual([str(one) for one in two.merged_cells.ranges], ["B3:C3"])
        self.assertEqual((two["B5"].value, two["B5"].number_format, two.freeze_panes), (1.5, "0.00", "B5"))
        three = book["Table 3"]
        self.assertEqual([three["B4"].value, three["A5"].value, three["B5"].value], [1208.5, "007", -3])
        self.assertEqual([cell.value for cell in book["Table 4"]["A"][3:8]], ["u", 1, 2, "v", 3])
        self.assertEqual(len(book["Figures"]._images), 1)

    def test_the_first_sheet_lists_them_and_names_the_values(self) -> None:
        book = self.book()
        first = book["Contents"]
        said = {row[0].value: row[1].value for row in first.iter_rows(max_col=2) if row[0].value}
        self.assertEqual(
            [said["Volumes"], said["Share, damp"], said["As of"], said["R1C1"]],
            [5, 0.1234, datetime.datetime(2026, 3, 1), "=1+1"],
        )
        self.assertEqual(said["Table 3"], "By hand.")
        links = [cell.hyperlink.location for row in first.iter_rows(max_col=1) for cell in row if cell.hyperlink]
        self.assertEqual(links[0], "'Table 1'!A1")
        self.assertEqual(set(book.defined_names), {"Volumes", "Share_damp", "As_of", "_R1C1"})
        place = book.defined_names["Share_damp"].attr_text
        self.assertEqual(first[place.split("!")[1].replace("$", "")].number_format, "0.0%")

    def test_the_same_bytes_again_and_an_office_program_shows_the_same(self) -> None:
        self.book()
        first = self.file.read_bytes()
        self.book(afresh=True)
        self.assertEqual(first, self.file.read_bytes())
        sheet = self.calculated(self.file, "Table 1")
        self.assertIn("=HYPERLINK(1),1,10.0%,2026-01-02 00:00", sheet)
        self.assertIn("+a,22,25.0%", sheet)

    def calculated(self, file: Path, sheet: str) -> str:
        """A sheet as an office program has worked it out."""
        names = openpyxl.load_workbook(file).sheetnames
        number = names.index(sheet) + 1
        profile = f"-env:UserInstallation={(self.folder / 'profile').as_uri()}"
        asked = f"csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,true,true,false,false,{number}"
        subprocess.run(["soffice", profile, "--headless", "--convert-to", asked, "--outdir", str(self.folder / "out"), str(file)], capture_output=True, check=True, timeout=120)  # fmt: skip
        (made,) = (self.folder / "out").glob(f"*{sheet}.csv")
        return made.read_text(encoding="utf-8")

    def test_a_hundred_thousand_rows(self) -> None:
        code = "import numpy as np, pandas as pd\npage.table(pd.DataFrame({'k': np.arange(100_000), 'x': np.arange(100_000) / 7, 's': ['a b'] * 100_000}), whole=True)"
        book = self.book(f"```python run #all show=output rows=10\n{code}\n```\nCaption: All.\n")
        sheet = book["Table 1"]
        self.assertEqual((sheet.max_row, sheet.cell(100_003, 1).value), (100_003, 99_999))
        press(self.folder / "page.md", ["html"])
        self.assertIn("99,990", (self.folder / "page.html").read_text(encoding="utf-8"))

    # --- an office's own ----------------------------------------------------------------------

    def office(self) -> Path:
        """A workbook as an office keeps it: looks, formulas, a chart, names, settings of print."""
        book = openpyxl.Workbook()
        sheet = book.active
        assert sheet is not None
        sheet.title = "Results"
        sheet["A1"], sheet["B3"], sheet["B3"].font = "Returns", 1, Font(bold=True, name="Arial")
        sheet["B3"].number_format = "#,##0.00"
        sheet["B5"], sheet["B6"] = "=B3*2", "=SUM(C8:C10)"
        sheet["A8"].fill = PatternFill("solid", fgColor="FFDDEEFF")
        chart = BarChart()
        chart.add_data(Reference(sheet, min_col=3, min_row=8, max_row=10))
        sheet.add_chart(chart, "F2")
        sheet.print_area = "A1:D20"
        other = book.create_sheet("This year's")
        other["A1"] = "=Results!B3+1"
        for name, stands_for in (("Headline", "Results!$D$3"), ("Gone", "#REF!"), ("Rate", "0.21"), ("Same", "Rate")):
            book.defined_names[name] = DefinedName(name, attr_text=stands_for)
        path = self.folder / "returns.xlsx"
        book.save(path)
        return path

    def test_it_is_filled_and_all_else_stays(self) -> None:
        office = self.office()
        before = {
            name: data
            for name, data in self.held(office).items()
            if "chart" in name or "drawing" in name or "theme" in name
        }
        code = """
import pandas as pd
page.cell("Results!B3", 21.5)
page.cell("Headline", "=not a formula")
page.cell("'This year''s'!C2", True)
page.cell("Results!D5", 0.25, form="percent")
page.table(pd.DataFrame({"k": ["a", "b", "c"], "n": [1.5, 2, 3]}).set_index("k"), cell="Results!B8")
page.cell("B20", pd.Timestamp("2026-03-02"))
"""
        head = "---\npress: {xlsx: {workbook: returns.xlsx, results: {Headline: \"'told'\"}}}\n---\n\n"
        book = self.book(f"{head}```python run #fill show=nothing\n{code}```\n")
        sheet = book["Results"]
        self.assertEqual(
            [sheet[at].value for at in ("A1", "B3", "D3", "D5", "B5")], ["Returns", 21.5, "told", 0.25, "=B3*2"]
        )
        self.assertEqual(
            (sheet["B3"].number_format, sheet["B3"].font.b, sheet["D5"].number_format, sheet["B20"].value),
            ("#,##0.00", True, "0.0%", datetime.datetime(2026, 3, 2)),
        )
        self.assertEqual([[cell.value for cell in row] for row in sheet["B8:C10"]], [["a", 1.5], ["b", 2], ["c", 3]])
        self.assertEqual(
            (sheet["A8"].fill.fgColor.rgb, sheet.print_area, book["This year's"]["C2"].value),
            ("FFDDEEFF", "'Results'!$A$1:$D$20", True),
        )
        self.assertEqual(before, {name: data for name, data in self.held(self.file).items() if name in before})
        self.assertGreater(len(before), 2)
        made = self.calculated(self.file, "Results").splitlines()
        self.assertEqual([made[4].split(",")[1], made[5].split(",")[1]], ["43", "6.5"])
        self.assertIn("22.5", self.calculated(self.file, "This year's"))

    def test_cells_that_were_not_there_come_to_stand_in_their_order(self) -> None:
        self.office()
        head = '---\npress: {xlsx: {workbook: returns.xlsx, results: {Gone: "1"}}}\n---\n\n```python run #fill\n'
        code = "import pandas as pd\npage.cell('E5', 5)\npage.cell('A5', 1)\npage.cell('C2', 2)"
        table = "page.table(pd.DataFrame({'k': range(30_000), 'x': range(30_000)}), cell='A30')"
        self.book(f"{head}{code}\n{table}\n```\n")
        sheet = self.held(self.file)["xl/worksheets/sheet1.xml"].decode()
        rows = [int(one) for one in re.findall(r'<row r="(\d+)"', sheet)]
        self.assertEqual((rows, rows[-1]), (sorted(set(rows)), 30_029))
        self.assertRegex(sheet, r'<dimension ref="A1:[E-Z]30029"')
        fifth = sheet[sheet.index('<row r="5"') :]
        self.assertEqual(re.findall(r'<c r="(\w+)"', fifth[: fifth.index("</row>")]), ["A5", "B5", "E5"])
        told = press(self.folder / "page.md", ["xlsx"], afresh=True).warnings
        self.assertIn("stands for no cell", str(told[0]))

    def held(self, file: Path) -> dict[str, bytes]:
        with zipfile.ZipFile(file) as archive:
            return {name: archive.read(name) for name in archive.namelist()}

    def test_places_that_are_none_are_told_with_their_chunk(self) -> None:
        self.office()
        head = "---\npress: {xlsx: {workbook: returns.xlsx}}\n---\n\n```python run #fill\n"
        for call, words in (
            ('page.cell("Result!B3", 1)', "page.md:5:1: returns.xlsx has no sheet 'Result'. Did you mean 'Results'?"),
            ('page.cell("Headlin", 1)', "page.md:5:1: returns.xlsx has no name 'Headlin'. Did you mean 'Headline'?"),
            ('page.cell("Results!B0", 1)', "'Results!B0' is no place in a workbook"),
            ('page.cell("XFE1", 1)', "lies beyond the last cell"),
            ('page.cell("Gone", 1)', "page.md:5:1: the name 'Gone' of returns.xlsx stands for no cell"),
            ('page.cell("Rate", 1)', "stands for no cell, but for '0.21'"),
            ('page.cell("Same", 1)', "stands for no cell, but for 'Rate'"),
        ):
            with self.subTest(call), self.assertRaises((PageError, PressingFailed)) as caught:
                self.book(f"{head}{call}\n```\n")
            self.assertIn(words, str(caught.exception))
        self.write("returns.xlsx", "no workbook")
        with self.assertRaisesRegex(PageError, "returns.xlsx cannot be read"):
            self.book(f'{head}page.cell("Results!B3", 1)\n```\n')
        press(self.write("bare.md", '```python run #fill\npage.cell("B3", 1)\n```\n'), ["xlsx"])
        told = press(self.folder / "bare.md", ["xlsx"], afresh=True).warnings
        self.assertIn("no workbook is named", str(told[0]))


class Laws(FolderCase):
    @given(st.integers(1, 16_384), st.integers(1, 1_048_576), st.text(min_size=1, max_size=8))
    def test_places_are_read_as_they_are_written(self, column: int, row: int, sheet: str) -> None:
        self.assertEqual(column_of(letters_of(column)), column)
        place = place_of(f"'{sheet.replace(chr(39), chr(39) * 2)}'!${letters_of(column)}${row}")
        self.assertEqual((place.sheet, place.column, place.row), (sheet, column, row))

    @given(st.lists(st.text(max_size=40), max_size=12))
    def test_names_are_ones_that_workbooks_take(self, words: list[str]) -> None:
        names, taken = SheetNames(), set[str]()
        made = [names.of(one) for one in words]
        self.assertEqual(len({one.lower() for one in made}), len(made))
        for one in made:
            self.assertTrue(0 < len(one) <= 31 and not set(one) & set("[]:*?/\\") and one.strip("'") == one, one)
        cells = [cell_name(one, taken) for one in words]
        self.assertEqual(len({one.lower() for one in cells}), len(cells))

    @given(st.one_of(st.floats(), st.integers(), st.text(), st.booleans(), st.none()))
    def test_a_number_is_the_very_same_or_told_as_text(self, value: Any) -> None:
        got = held(value, "number" if isinstance(value, int | float) else "text").value
        if isinstance(value, float) and math.isnan(value):
            self.assertIsNone(got)
        else:
            self.assertTrue(got == value or isinstance(got, str), got)

    def test_forms_are_formats(self) -> None:
        for form, wanted in (
            ("percent", "0.0%"),
            ("2 decimals", "0.00"),
            ("thousands", "#,##0"),
            ("'.1f'", "0.0"),
            ("',.2f'", "#,##0.00"),
            ("'+.1%'", "+0.0%;-0.0%;0.0%"),
            ("words", ""),
        ):
            self.assertEqual(of_form(form, None), wanted, form)
        self.assertEqual(held("0.1", "number"), Held(0.1, "0.0"))
