"""Interactive figures: what they are in a browser, their still picture where the library draws one, and the same bytes each time."""

import sys
import unittest
import warnings
from typing import Any
from unittest import mock
from xml.etree import ElementTree as ET

import altair as alt
import pandas as pd
import plotly.graph_objects as go
from bokeh.plotting import figure

from wornpage.session.python.lively import lively
from wornpage.session.python.stills import still_of


def figure_of(library: str, name: str, **attributes: Any) -> Any:
    """A figure of a library that is not installed."""
    made: Any = type(name, (), {**attributes, "__module__": f"{library}.figures"})()
    return made


def chart(title: str = "Loans & more") -> Any:
    """A chart of the library that draws itself."""
    data = pd.DataFrame({"x": [1, 2], "y": [3, 1]})
    return alt.Chart(data, title=title).mark_point().encode(x="x", y="y").interactive()


class Stills(unittest.TestCase):
    def test_charts_are_drawn_with_their_title(self) -> None:
        for value in (chart(), chart() | chart("b"), chart() + chart("c")):
            with warnings.catch_warnings(action="ignore"):
                still = still_of(value)
            assert still is not None
            self.assertEqual((ET.fromstring(still.data).tag.rpartition("}")[2], still.missing), ("svg", ""))
        still = still_of(chart())
        assert still is not None
        self.assertEqual(still.alt, "Loans & more")

    def test_what_a_library_lacks_is_told(self) -> None:
        still = still_of(go.Figure(layout={"title": {"text": "<b>Loans</b> & co"}}))
        assert still is not None
        self.assertEqual(
            (still.data, still.alt, still.missing), (b"", "<b>Loans</b> & co", "plotly draws in browsers alone")
        )
        with mock.patch.dict(sys.modules, {"vl_convert": None}):
            still = still_of(chart())
            self.assertIsNone(lively(chart(), None))
        assert still is not None
        self.assertIn("`vl-convert-python`", still.missing)

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
            self.assertIsNone(lively(value, None))


def drawing(title: str) -> Any:
    """A drawing whose parts have running numbers."""
    made = figure(title=title, width=400, height=300)
    made.line([1, 2], [3, 4])
    return made


class Lively(unittest.TestCase):
    def test_the_same_figure_has_the_same_bytes_whatever_was_made_before(self) -> None:
        for make in (
            lambda: chart("a"),
            lambda: chart("a") | chart("b"),
            lambda: drawing("c"),
            lambda: go.Figure(go.Bar(y=[1, 2])),
        ):
            with warnings.catch_warnings(action="ignore"):
                first = lively(make(), None)
                [make() for _ in range(3)]
                self.assertEqual(first, lively(make(), None))

    def test_what_looks_like_a_running_number_in_the_data_stays(self) -> None:
        made = drawing("p1001")
        made.text([1], [2], text=["p1002"])
        alive = lively(made, None)
        assert alive is not None
        self.assertIn('"p1001"', alive.html)
        self.assertIn('"p1002"', alive.html)

    def test_nothing_ends_the_script_before_its_end(self) -> None:
        nasty = "</script><script>alert(1)</script><!--"
        for value in (go.Figure(layout={"title": {"text": nasty}}), drawing(nasty), chart(nasty)):
            alive = lively(value, None)
            assert alive is not None
            self.assertEqual(alive.html.count("</script"), 1)
            self.assertNotIn("<!--", alive.html)


if __name__ == "__main__":
    unittest.main()
