"""Parts of planning and of the store that can be told alone."""

import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from wornpage.plan import manifest
from wornpage.plan.codes import Definitions, code_key, reader_of, sight_of
from wornpage.plan.conditions import ConditionFault, holds
from wornpage.plan.need import needed_by
from wornpage.plan.seeding import seed_of
from wornpage.plan.sight import Sight
from wornpage.source import parse_page
from wornpage.store import packages, signing
from wornpage.store.files import content, listing
from wornpage.store.trace import Last, Read, Trace
from wornpage.store.traces import Traces
from wornpage.tree.nodes import Chunk
from wornpage.tree.problem import WornError

PYTHON = reader_of("python")


def trace(run: str, *reads: Read) -> Trace:
    return Trace("a", "ab12", "", run, 0.0, reads)


def chunk(text: str) -> Chunk:
    return parse_page(text, Path("p.md"), "p.md").chunks[0]


class Codes(unittest.TestCase):
    """What code is, and what it mentions."""

    def test_comments_and_layout_are_nothing_and_all_else_is_something(self) -> None:
        same = ("x = f(1, 2)", "# words\n\nx = f(1,\n      2)  # more", "x = (f(1, 2))")
        self.assertEqual(len({PYTHON.normal_form(code) for code in same}), 1)
        others = ("x = f(1, 3)", "x = 'f(1, 2)'", "x = f(1, 2,)\ny", "x = f(1 2")
        self.assertEqual(len({PYTHON.normal_form(code) for code in (*same, *others)}), 5)
        self.assertNotEqual(PYTHON.normal_form("x = 'a  b'"), PYTHON.normal_form("x = 'a b'"))

    def test_options_that_change_what_a_chunk_makes_are_part_of_its_key(self) -> None:
        one = chunk("```python run #a\nx\n```")
        self.assertEqual(code_key(one, (1, 2), None), code_key(chunk("```python run #b\nx  # c\n```"), (1, 2), None))
        self.assertNotEqual(code_key(one, (1, 2), None), code_key(one, (1, 3), None))
        self.assertNotEqual(code_key(one, (1, 2), None), code_key(one, (1, 2), 4))

    def test_names_are_reached_through_functions(self) -> None:
        codes = ("def f():\n    return g()", "def g():\n    return x", "class C:\n    def m(self):\n        return y")
        definitions = Definitions(chunk(f"```python run #a\n{code}\n```") for code in codes)
        self.assertLessEqual({"f", "g", "x"}, definitions.reachable("f()", "python"))
        self.assertLessEqual({"y"}, definitions.reachable("C().m()", "python"))
        self.assertNotIn("x", definitions.reachable("C()", "python"))
        self.assertIn("key", PYTHON.mentioned("globals()['key']"))

    def test_what_code_asks_for_beyond_what_things_hold_is_noticed(self) -> None:
        cases = {
            "a is b": Sight(identity=True), "id(a)": Sight(identity=True), "a is None or b is not True": Sight(),
            "type(a) is int": Sight(), "import sys; sys._getframe().f_lineno": Sight(lines=True), "import inspect": Sight(lines=True),
            "os.stat('a').st_mtime": Sight(times=True), "x = 'this is it'": Sight(), "os.access('a', os.X_OK)": Sight(rights=True),
        }  # fmt: skip
        for code, wanted in cases.items():
            with self.subTest(code):
                self.assertEqual(sight_of([("python", code)]), wanted)

    def test_seeds_follow_the_label_or_the_code(self) -> None:
        named, bare = chunk("```python run #a\nx\n```"), chunk("```python run\nx\n```")
        self.assertEqual(seed_of(named, None, 1, 0), seed_of(named, None, 1, 5))
        self.assertNotEqual(seed_of(bare, None, 1, 0), seed_of(bare, None, 1, 1))
        self.assertNotEqual(seed_of(named, None, 1, 0), seed_of(named, None, 2, 0))
        self.assertEqual(seed_of(named, 42, 1, 0), 42)


class Needs(unittest.TestCase):
    """What one chunk needs of those above it."""

    CODES = {
        "load": "import pandas as pd\nframe = pd.DataFrame({'a': [1]})",
        "slow": "import time\ntime.sleep(9)\nbig = frame.sum()",
        "options": "pd.set_option('display.precision', 2)",
        "rc": "import matplotlib as m\nm.rcParams['font.size'] = 9",
        "change": "frame['b'] = helper(3)",
        "help": "def helper(n):\n    return n + offset",
        "offset": "offset = 1",
        "file": "frame.to_csv('f.csv')",
        "other": "x = 1\nx",
        "show": "frame.head()",
    }

    def needed(self, label: str, last: dict[str, Last]) -> list[str]:
        text = "\n\n".join(f"```python run #{name}\n{code}\n```" for name, code in self.CODES.items())
        chunks = parse_page(text, Path("p.md"), "p.md").chunks
        return [one.label for one in needed_by(label, chunks, last)]

    def test_code_that_has_not_run_tells_what_it_may_change(self) -> None:
        found = self.needed("show", {})
        self.assertLessEqual({"load", "options", "rc", "change", "file"}, set(found))
        self.assertFalse({"slow", "other", "help"} & set(found))

    def test_a_chunk_that_has_run_tells_what_it_wrote(self) -> None:
        last = dict.fromkeys(self.CODES, Last("", "", 0, ()))
        last |= {"load": Last("", "", 0, (), ("frame", "pd")), "slow": Last("", "", 0, (), effects="it did")}
        self.assertEqual(self.needed("show", last), ["load", "slow", "show"])


class Conditions(unittest.TestCase):
    """`when` looks, and does nothing else."""

    def test_what_it_may_say(self) -> None:
        given = {"branch": "Quayside", "damp-above": 60}
        for text, wanted in (
            ("given.branch == 'Quayside'", True), ("given.damp_above > 60 or not given.branch", False),
            ("given.branch in ['Quayside', 'Millpond'] and 50 < given.damp_above <= 60", True), ("given.damp_above + 1 == 61", True),
            ("-given.damp_above < 0", True), ("given.branch not in ('x',)", True), ("given.branch + '!' == 'Quayside!'", True), ("given.damp_above * 2 % 7 == 1", True),
        ):  # fmt: skip
            self.assertEqual(holds(text, given), wanted, text)

    def test_what_it_may_not(self) -> None:
        for text in (
            "__import__('os')",
            "given.nope",
            "open('x')",
            "given.branch.upper()",
            "x",
            "1 +",
            "given.branch < 3",
            "1 / 0",
            "'a' * 9999999999 == given.branch",
            "[1] * 9999999999 == 1",
            "'%999999999d' % 3 == given.branch",
            "1e308 * 10.0 % 0 == 1",
        ):
            with self.subTest(text), self.assertRaises(ConditionFault):
                holds(text, {"branch": "a"})


class Store(unittest.TestCase):
    """Traces, signatures, packages, files."""

    def setUp(self) -> None:
        place = TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)

    def test_a_trace_is_found_by_what_it_read_and_only_then(self) -> None:
        traces = Traces(self.folder)
        two = trace("two", Read("name", "x", "2"), Read("file", "f", "h"))
        traces.put("ab12", trace("one", Read("name", "x", "1"), Read("file", "f", "h")))
        traces.put("ab12", two)
        traces.put("ab12", trace("three", Read("name", "y", "9")))
        now = {("name", "x"): "2", ("file", "f"): "h", ("name", "y"): "0"}
        self.assertEqual(traces.find("ab12", lambda item: now[item]), two)
        self.assertIsNone(traces.find("ab12", lambda item: "other"))
        self.assertIsNone(traces.find("cd34", lambda item: "2"))
        self.assertIsNone(Traces(None).find("ab12", lambda item: now[item]))

    def test_only_what_this_user_has_signed_is_opened(self) -> None:
        raw = signing.sealed({"a": "é\ud800"}, "here")
        self.assertEqual(signing.opened(raw, "here"), {"a": "é\ud800"})
        for damaged in (raw[:-1], b"0" + raw[1:], b"", raw.replace(b"\n", b"")):
            with self.assertRaises(ValueError):
                signing.opened(damaged, "here")
        with self.assertRaises(ValueError):
            signing.opened(raw, "elsewhere")
        with mock.patch.object(signing, "user_key", lambda: b"another"), self.assertRaises(ValueError):
            signing.opened(raw, "here")

    def test_a_trace_in_the_place_of_another_is_none(self) -> None:
        traces = Traces(self.folder)
        for value in "12":
            traces.put("ab12", trace(value, Read("name", "x", value)))
        one, two = sorted((self.folder / "ab" / "ab12").rglob("*.trace"))
        first = one.read_bytes()
        one.write_bytes(two.read_bytes())
        two.write_bytes(first)
        self.assertEqual([traces.find("ab12", lambda item, value=value: value) for value in "12"], [None, None])

    def test_a_key_that_is_none_is_told_and_never_used(self) -> None:
        with mock.patch.dict("os.environ", {"XDG_CONFIG_HOME": str(self.folder)}):
            signing.key_file().parent.mkdir(parents=True)
            for broken in (b"", b"ab", b"\xff\x00", b"zz" * 32):
                signing.key_file().write_bytes(broken)
                signing.secret_in.cache_clear()
                with self.assertRaises(WornError) as told:
                    signing.user_key()
                self.assertIn("remove it", str(told.exception))
                self.assertEqual(signing.key_file().read_bytes(), broken)
        signing.secret_in.cache_clear()

    def test_damaged_files_of_the_store_are_misses(self) -> None:
        traces = Traces(self.folder)
        traces.put("ab12", trace("1", Read("name", "x", "1")))
        (reads,) = (self.folder / "ab" / "ab12").rglob("reads.json")
        for damaged in (b"null", b"[[1]]", b"{", b"[" * 9_000, b"\xff"):
            reads.write_bytes(damaged)
            self.assertIsNone(traces.find("ab12", lambda item: "1"), damaged)
        reads.unlink()
        reads.mkdir()
        self.assertIsNone(traces.find("ab12", lambda item: "1"))

    def test_a_key_is_made_once_and_only_the_user_can_read_it(self) -> None:
        with mock.patch.dict("os.environ", {"XDG_CONFIG_HOME": str(self.folder)}):
            signing.secret_in.cache_clear()
            first = signing.user_key()
            signing.secret_in.cache_clear()
            self.assertEqual(signing.user_key(), first)
            self.assertEqual(signing.key_file().stat().st_mode & 0o777, 0o600)
        signing.secret_in.cache_clear()

    def test_versions_are_read_without_importing(self) -> None:
        import pandas

        self.assertEqual(packages.version_of("pandas"), pandas.__version__)
        self.assertEqual(packages.distribution_of("dateutil"), "python-dateutil")
        self.assertEqual(packages.version_of("no-such-package"), "absent")
        self.assertLessEqual({"pandas", "numpy", "python-dateutil"}, set(packages.with_requirements("pandas")))

    def test_a_package_that_is_upgraded_is_seen_by_a_process_that_goes_on(self) -> None:
        with mock.patch("sys.path", [str(self.folder)]):
            for version in ("1.0", "2.0"):
                for old in self.folder.glob("shelf-*"):
                    old.rmdir()
                (self.folder / f"shelf-{version}.dist-info").mkdir()
                packages.look_again()
                self.assertEqual(packages.version_of("shelf"), version)
        packages.look_again()

    def test_contents_and_listings_change_with_what_they_hold(self) -> None:
        path = self.folder / "f"
        self.assertEqual(content(str(path)), "absent")
        path.write_text("1")
        first, names = content(str(path)), listing(str(self.folder))
        path.write_text("2")
        self.assertNotEqual(content(str(path)), first)
        self.assertEqual(listing(str(self.folder)), names)
        (self.folder / "g").write_text("1")
        self.assertNotEqual(listing(str(self.folder)), names)
        self.assertEqual((content(str(self.folder)), listing(str(self.folder / "none"))), ("folder", "absent"))

    def test_the_manifest_holds_only_while_everything_does(self) -> None:
        page, output, data = self.folder / "p.md", self.folder / "p.html", self.folder / "d"
        for path in (page, output, data):
            path.write_text("x")
        manifest.store_of(page).mkdir(parents=True)

        def remember(day: str = "", given: tuple[str, ...] = ()) -> None:
            reads = [("file", "d", content(str(data)))]
            manifest.remember(
                page, content(str(page)), [("html", output)], reads, [("a", 1.0)], day, "1", ["w"], list(given)
            )

        def right(kinds: tuple[str, ...] = ("html",), day: str = "today", code: str = "1") -> bool:
            return manifest.still_right(page, list(kinds), None, day, code) is not None

        remember()
        self.assertEqual(
            (right(), right(("pdf",)), right(code="2"), right(("html", "pdf"))), (True, False, False, False)
        )
        for path in (page, output, data):
            path.write_text("y")
            self.assertFalse(right(), path)
            path.write_text("x")
        self.assertTrue(right())
        remember("today")
        self.assertEqual((right(), right(day="tomorrow")), (True, False))
        remember(given=("branch=Mill",))
        self.assertFalse(right(), "it was pressed with values that nobody asks for now")
