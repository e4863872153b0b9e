"""The schemas say what the checker accepts: seen with a validator that is not ours."""

from __future__ import annotations

import unittest
from importlib.resources import files
from typing import Any

from jsonschema import Draft202012Validator
from ruamel.yaml import YAML

from wornpage.demo import PAGES
from wornpage.settings.schema import MODELS, schema_of


class Schemas(unittest.TestCase):
    def faults(self, kind: str, data: Any) -> list[str]:
        """What a validator says."""
        return [error.message for error in Draft202012Validator(schema_of(kind)).iter_errors(data)]

    def test_they_are_schemas_with_words_for_every_key(self) -> None:
        for kind in MODELS:
            schema = schema_of(kind)
            Draft202012Validator.check_schema(schema)
            silent = [key for key, one in schema["properties"].items() if not (one.get("description") or "$ref" in one)]
            self.assertEqual(silent, [], kind)

    def test_the_demo_pages_are_right_by_them(self) -> None:
        for page in PAGES:
            front = files("wornpage.demo").joinpath(page).read_text("utf-8").split("---\n")[1]
            data = YAML(typ="safe").load(front)
            data.pop("date", None)  # a date in YAML is no JSON
            with self.subTest(page):
                self.assertEqual(self.faults("page", data), [])

    def test_what_is_written_is_taken_and_the_rest_is_not(self) -> None:
        right = {"show": "output", "width": "16cm", "tuck": "yes", "notices": False, "timeout": "90s", "pick-out": "3,7-9", "align": "center", "scale": "80%", "reads": "a.csv"}  # fmt: skip
        self.assertEqual(self.faults("chunk", right), [])
        for key, value in (
            ("width", "16"),
            ("widht", "16cm"),
            ("show", "none"),
            ("timeout", 90),
            ("dpi", 5),
            ("scale", 0.8),
        ):
            with self.subTest(key):
                self.assertTrue(self.faults("chunk", {key: value}))
        self.assertEqual(
            self.faults(
                "page", {"authors": ["A", {"name": "B", "affiliation": "C"}], "given": {"n": {"default": 1, "from": 0}}}
            ),
            [],
        )
        self.assertTrue(self.faults("page", {"given": {"n": {"defualt": 1}}}))
        self.assertTrue(self.faults("project", {"title": "A"}))
