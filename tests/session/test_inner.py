"""Modules within packages: who has loaded them, who reads them, and how they come back."""

import sys
import xml
from unittest import TestCase
from unittest.mock import patch

from wornpage.session.python import inner


class Inner(TestCase):
    def setUp(self) -> None:
        for name, empty in (("_asked", {}), ("_by_the_way", set()), ("_waiting", set())):
            change = patch.object(inner, name, empty)
            change.start()
            self.addCleanup(change.stop)

    def test_what_chunks_ask_for_is_told_one_by_one(self) -> None:
        import xml.dom.minidom  # noqa: F401

        inner.asked_for({"xml.dom.minidom", "json", "no.such"})
        told = {item for item in inner.told() if item.startswith(inner.PREFIX)}
        self.assertEqual(told, {"inner:xml.dom", "inner:xml.dom.minidom"})

    def test_what_is_not_there_comes_with_its_package(self) -> None:
        with patch.dict(sys.modules):
            sys.modules.pop("xml.sax.saxutils", None)
            inner.put("inner:xml.sax.saxutils", "yes")
            self.assertFalse(inner.is_waited_for(sys))
            self.assertTrue(inner.is_waited_for(xml))
            inner.bring(xml)
            self.assertIn("xml.sax.saxutils", sys.modules)
            self.assertFalse(inner.is_waiting("xml"))

    def test_code_reads_what_it_has_words_for(self) -> None:
        inner.put("inner:xml.dom", "yes")
        inner.put(inner.BY_THE_WAY, "xml.etree")
        read = lambda code, own=(): inner.read({"x": xml}, code, set(own))  # noqa: E731
        self.assertEqual(read("x.dom.parse()"), ["inner:xml.dom"])
        self.assertEqual(read("x.etree"), [inner.BY_THE_WAY])
        self.assertEqual(read("x.nothing"), ["inner:xml.nothing"])
        self.assertEqual(read("hasattr(x, 'gone')"), ["inner:xml.gone"])
        self.assertEqual(read("print(x)"), [])
        self.assertEqual(read("x.dom", ["xml.dom"]), [])
