"""Interactive figures show a still picture, or a box that says what is missing."""

import sys
import unittest
from types import ModuleType
from typing import Any
from unittest import mock
from xml.etree import ElementTree as ET

import altair as alt
import pandas as pd
import plotly.graph_objects as go

from wornpage.session.python.stills import still_of


def figure_of(library: str, name: str, **attributes: Any) -> Any:
    """A figure of a library that is not installed."""
    made: Any = type(name, (), {**attributes, "__module__": f"{library}.figures"})()
    return made


class Stills(unittest.TestCase):
    def test_charts_are_drawn_with_their_title(self) -> None:
        chart = (
            alt.Chart(pd.DataFrame({"x": [1, 2], "y": [3, 1]}), title="Loans & more").mark_point().encode(x="x", y="y")
        )
        for value in (chart, chart | chart, chart + chart):
            still = still_of(value)
            assert still is not None
            self.assertEqual((ET.fromstring(still.data).tag.rpartition("}")[2], still.missing), ("svg", ""))
        still = still_of(chart)
        assert still is not None
        self.assertEqual(still.alt, "Loans & more")

    def test_what_a_library_needs_is_said_in_a_box(self) -> None:
        with mock.patch.dict(sys.modules, {"kaleido": None}):
            still = still_of(go.Figure(layout={"title": {"text": "<b>Loans</b> & co"}}))
        assert still is not None
        self.assertIn("`kaleido`", still.missing)
        self.assertIn("<b>Loans</b> & co", "".join(ET.fromstring(still.data).itertext()))

    def test_whatever_a_library_has_against_it_is_told(self) -> None:
        with mock.patch.dict(sys.modules, {"plotly": ModuleType("plotly"), "kaleido": ModuleType("kaleido")}):
            kind = type("BaseFigure", (), {"__module__": "plotly.basedatatypes", "to_image": lambda self, **how: 1 / 0})
            still = still_of(kind())
        assert still is not None
        self.assertEqual(
            (still.missing, still.alt),
            ("ZeroDivisionError: division by zero", "An interactive figure made with plotly"),
        )

    def test_other_values_are_no_figures(self) -> None:
        for value in (
            3,
            "x",
            object(),
            type,
            figure_of("plotly", "Other"),
            figure_of("nolibrary", "BaseFigure"),
            go.Figure,
        ):
            self.assertIsNone(still_of(value))


if __name__ == "__main__":
    unittest.main()
