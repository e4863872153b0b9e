"""Figures on their canvas: nothing is cut, no layout is forced, and what is told of them."""

import unittest
from typing import Any
from xml.etree import ElementTree

import matplotlib as mpl

mpl.use("agg")
import matplotlib.pyplot as plt
import numpy as np

from wornpage.session.python.figures import MAX_VERTICES, _resize, _save, describe, vertices
from wornpage.session.python.fitting import fit


class Fitting(unittest.TestCase):
    def setUp(self) -> None:
        self.addCleanup(plt.close, "all")

    def test_words_that_would_be_cut_make_the_margins_wider(self) -> None:
        figure, axes = plt.subplots(figsize=(3, 2))
        axes.set_ylabel("A long label\nin two lines\nor three")
        axes.set_xlabel("Days since\nthe first\nfolding")
        before = axes.get_position().x0
        fitted = fit(figure)
        self.assertEqual((fitted.part, fitted.growth, fitted.problem), (None, 1.0, ""))
        self.assertGreater(axes.get_position().x0, before)
        edges = figure.get_tightbbox()
        self.assertGreaterEqual(min(edges.x0, edges.y0), -0.02)

    def test_margins_that_the_author_has_set_stay(self) -> None:
        for set_up in (
            lambda f: f.subplots_adjust(left=0.4),
            lambda f: f.set_layout_engine("constrained"),
            lambda f: f.tight_layout(),
        ):
            figure, axes = plt.subplots()
            axes.plot([1, 2])
            set_up(figure)
            engine = figure.get_layout_engine()
            where = axes.get_position().bounds
            fit(figure)
            self.assertIs(figure.get_layout_engine(), engine)
            if engine is None:
                self.assertEqual(axes.get_position().bounds, where)

    def test_what_stands_over_the_edge_makes_the_canvas_larger(self) -> None:
        figure, axes = plt.subplots(figsize=(3, 2))
        figure.subplots_adjust(left=0.2, right=0.95)
        axes.plot([1, 2], label="A legend outside of the axes")
        axes.legend(loc="upper left", bbox_to_anchor=(1.02, 1))
        fitted = fit(figure)
        assert fitted.part is not None
        self.assertGreater(fitted.growth, 1.2)
        self.assertEqual((fitted.part.x0, fitted.part.y0), (0.0, 0.0))

    def test_what_lies_far_out_is_out_of_the_picture(self) -> None:
        figure, axes = plt.subplots(figsize=(3, 2))
        figure.subplots_adjust(left=0.2)
        axes.set_xlim(0, 1)
        axes.text(400, 0.5, "far away")
        self.assertIsNone(fit(figure).part)

    def test_colour_bars_live_with_every_layout(self) -> None:
        field = np.arange(12.0).reshape(3, 4)
        for draw in (lambda a: a.imshow(field), lambda a: a.pcolormesh(field), lambda a: a.contourf(field),
                     lambda a: a.scatter([1, 2], [3, 4], c=[5, 6])):  # fmt: skip
            figure, axes = plt.subplots(figsize=(3, 2))
            figure.colorbar(draw(axes), label="Folds")
            fitted = fit(figure)
            self.assertEqual(fitted.problem, "")
            self.assertTrue(_save(figure, "svg", 100)[0])

    def test_too_little_room_is_told_and_the_figure_stands(self) -> None:
        figure, axes = plt.subplots(1, 6, figsize=(1.2, 0.8))
        for one in axes:
            one.set_ylabel("Much too long a label for this")
        places = [one.get_position().bounds for one in axes]
        fitted = fit(figure)
        self.assertTrue(fitted.problem)
        self.assertEqual([one.get_position().bounds for one in axes], places)

    def test_a_figure_whose_drawing_fails_is_left_to_fail(self) -> None:
        figure, axes = plt.subplots()
        axes.set_title("$\\frac{$")
        fitted = fit(figure)
        self.assertIsNone(fitted.part)
        with self.assertRaises(ValueError):
            _save(figure, "svg", 100)


class Saving(unittest.TestCase):
    def setUp(self) -> None:
        self.addCleanup(plt.close, "all")

    def drawn(self) -> Any:
        figure, axes = plt.subplots(figsize=(3, 2))
        axes.plot([1, 3, 2], label="a")
        axes.legend()
        axes.set_xlabel("day")
        return figure

    def test_the_same_drawing_has_the_same_bytes(self) -> None:
        for kind in ("svg", "png"):
            self.assertEqual(_save(self.drawn(), kind, 100)[0], _save(self.drawn(), kind, 100)[0])

    def test_the_picture_has_the_figures_size(self) -> None:
        root = ElementTree.fromstring(_save(self.drawn(), "svg", 100)[0])
        self.assertEqual((root.get("width"), root.get("height")), ("216pt", "144pt"))

    def test_one_length_alone_keeps_the_proportions(self) -> None:
        for width, height, wanted in ((7.62, 0, (3, 2)), (0, 2.54, (1.5, 1)), (2.54, 2.54, (1, 1)), (0, 0, (3, 2))):
            figure = self.drawn()
            _resize(figure, {"width": width, "height": height})
            np.testing.assert_allclose(figure.get_size_inches(), wanted)

    def test_points_are_counted_wherever_they_stand(self) -> None:
        figure, axes = plt.subplots()
        axes.plot(range(100))
        few = vertices(figure)
        axes.inset_axes((0, 0, 0.5, 0.5)).plot(range(MAX_VERTICES))
        axes.scatter(range(50), range(50))
        self.assertGreaterEqual(few, 100)
        self.assertGreaterEqual(vertices(figure), MAX_VERTICES + 150)

    def test_the_words_of_a_figure_tell_of_it(self) -> None:
        figure, (left, right) = plt.subplots(1, 2)
        left.set(title="Folds", xlabel="pH", ylabel="count")
        right.set_title("By room", loc="left")
        self.assertEqual(describe(figure), "Folds: count against pH; By room")
        self.assertEqual(describe(plt.figure()), "")
