"""What a session tells of a chunk beside its output: all it read, wrote and left behind."""

import os
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from wornpage.session.process import ProcessSession
from wornpage.session.tasks import ChunkTask, Environment, Position, Standing
from wornpage.session.told import Found
from wornpage.store.files import listing
from wornpage.store.trace import Bound, as_kept


def looked(found: Found) -> list[str]:
    """Everything in files and folders that code has looked at and found, but for the search for modules."""
    kinds = found.files.keys() - {"matching"}
    return [path for kind in sorted(kinds) for path, what in found.files[kind].items() if what != "absent"]


def standing(bound: Bound) -> Standing:
    """A name as the chunk before left it."""
    return Standing("v1", bound.print, as_kept(bound.provider), bound.over, bound.group, bound.ends)


class Account(unittest.TestCase):
    def setUp(self) -> None:
        place = TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name).resolve()
        (self.folder / "in").mkdir()
        (self.folder / "in/a.txt").write_text("1")
        (self.folder / "helper.py").write_text("state = 1\ndef f():\n    return state\n")
        os.environ["WORN_TEST_VARIABLE"] = "set"
        self.addCleanup(os.environ.pop, "WORN_TEST_VARIABLE", None)
        self.session = ProcessSession()
        self.addCleanup(self.session.close)
        given, store = {"branch-name": "Quayside"}, str(self.folder / ".worn/blobs")
        self.session.open(Environment(self.folder, "p.md", given, store))
        self.number = 0

    def found(self, code: str, **place: Any) -> Found:
        """What is told of a chunk; fails if the chunk fails."""
        self.number += 1
        ran = self.session.run(ChunkTask("it", code, 5, 30, version=f"v{self.number}"), Position(**place))
        self.assertIsNone(ran.result.failure, ran.result)
        return ran.found

    def test_files_however_they_are_read(self) -> None:
        ways = {
            "open('in/a.txt').read()": ("file", "in/a.txt"),
            "from pathlib import Path; Path('in/a.txt').read_bytes()": ("file", "in/a.txt"),
            "import os; os.path.exists('in/b.txt')": ("file", "in/b.txt"),
            "import subprocess; subprocess.run(['cat', 'in/a.txt'])": ("file", "in/a.txt"),
            "import os; os.listdir('in')": ("listing", "in"),
            "import os; os.path.isdir('in')": ("entry", "in"),
            "import os; os.path.exists('in/a.txt')": ("entry", "in/a.txt"),
            "import subprocess; subprocess.run(['ls', 'in'])": ("listing", "in"),
            "import subprocess; subprocess.run(['test', '-e', 'in/none'])": ("file", "in/none"),
            "import os; os.fork() or (os.listdir('in'), os._exit(0)); os.wait()": ("listing", "in"),
            "import sqlite3; sqlite3.connect('in/a.txt')": ("file", "in/a.txt"),
        }
        for code, (kind, path) in ways.items():
            with self.subTest(code):
                self.assertIn(path, self.found(code).files[kind])

    def test_files_that_are_written_are_results_and_not_reads(self) -> None:
        found = self.found("with open('out.txt', 'w') as f: f.write('x')\nopen('out.txt').read()")
        self.assertEqual([path for path, _ in found.written], ["out.txt"])
        self.assertEqual(looked(found), [])
        found = self.found("import subprocess; subprocess.run('echo y > by-child.txt', shell=True)")
        self.assertEqual([path for path, _ in found.written], ["by-child.txt"])
        self.assertTrue(found.spawned)

    def test_a_folder_counts_as_it_was_when_it_was_looked_through(self) -> None:
        before = listing(str(self.folder / "in"))
        found = self.found("import os; os.listdir('in'); open('in/new.txt', 'w').close(); os.listdir('in')")
        self.assertEqual(found.files["listing"], {"in": before})
        found = self.found("import os; open('in/x', 'w').close(); os.listdir('in'); os.remove('in/x')")
        self.assertEqual(found.files["listing"], {"in": listing(str(self.folder / "in"))})
        made = "import os, shutil; os.mkdir('own'); open('own/a', 'w').close(); os.listdir('own'); shutil.rmtree('own')"
        self.assertEqual(looked(self.found(made)), [])

    def test_what_lies_beside_the_project_counts_and_what_is_installed_goes_by_its_version(self) -> None:
        with TemporaryDirectory() as place:
            (Path(place) / "beside.py").write_text("k = 1\n")
            (Path(place) / "data.txt").write_text("1")
            found = self.found(
                f"import sys; sys.path.append({place!r}); import beside; open({place!r} + '/data.txt').read()"
            )
            self.assertIn(f"{place}/data.txt", found.files["file"])
            self.assertEqual((list(found.modules), found.modules_read), (["beside"], ("beside",)))
        found = self.found("from importlib.metadata import version; version('msgspec')")
        self.assertEqual((found.asked_of, looked(found)), (("msgspec",), []))
        self.assertEqual(self.found("import json; json.dumps([])").modules, {})

    def test_logging_filters_and_numbers_count_for_code_that_asks(self) -> None:
        asks = {"import logging; logging.getLogger('a').level": {"logging"}, "import warnings; len(warnings.filters)": {"warnings"},
                "__import__('logging').root.handlers": {"logging"}, "x = 1": set(),
                "import threading; t = threading.Thread(target=len, args=('',)); t.start(); t.join()": {"numbers of threads"}}  # fmt: skip
        for code, wanted in asks.items():
            with self.subTest(code):
                seen = set(self.found(code).coarse)
                self.assertEqual(seen & {"logging", "warnings", "numbers of threads", "numbers of pools"}, wanted)

    def test_variables_given_values_and_seeds_only_where_they_are_used(self) -> None:
        found = self.found(
            "import os; os.environ.get('WORN_TEST_VARIABLE'), os.environ.get('WORN_NONE'), given.branch_name"
        )
        self.assertEqual(found.environment, {"WORN_NONE": "gone", "WORN_TEST_VARIABLE": "=set"})
        self.assertEqual((found.given, found.seed), (("branch_name",), False))
        found = self.found("import random; random.random()")
        self.assertEqual((found.environment, found.given, found.seed), ({}, (), True))
        self.assertTrue(self.found("import numpy as np; np.random.default_rng().random()").seed)
        self.assertFalse(self.found("import numpy as np; np.random.default_rng(3).random()").seed)

    def test_surroundings_that_can_be_set_are_told_with_their_values_and_put_back(self) -> None:
        changes = {
            "import os; os.chdir('in')": "cwd",
            "import sys; sys.path.append('more')": "path",
            "import warnings; warnings.simplefilter('ignore')": "warnings",
            "import decimal; decimal.getcontext().prec = 7": "decimal",
            "import numpy as np; np.seterr(all='raise')": "numpy.errors",
            "import numpy as np; np.set_printoptions(precision=2)": "numpy.print",
            "import pandas as pd; pd.set_option('display.precision', 2)": "pandas.options",
            "import matplotlib as m; m.rcParams['font.size'] = 5": "rc:font.size",
            "import os; os.environ['WORN_TEST_VARIABLE'] = 'other'": "env:WORN_TEST_VARIABLE",
            "import sys; sys.setrecursionlimit(2000)": "recursion",
        }
        for code, item in changes.items():
            with self.subTest(item):
                self.found(code.split(";")[0])
                told = self.found(code).ambient
                self.assertIn(item, told)
                # Elsewhere in the page it is in its first state again, and where it holds it holds exactly.
                self.assertNotIn(item, self.found("1").ambient)
                self.assertEqual(self.found("1", ambient={item: told[item]}).ambient, {})

    def test_what_cannot_be_set_back_is_an_effect_in_words(self) -> None:
        effects = {
            "import json\njson.dumps = len": "json.dumps",
            "import pandas as pd\npd.DataFrame.shout = lambda self: 'A'": "shout",
            "import helper": "helper",
            "import helper\nhelper.state = 2": "helper",
            "import threading, time\nthreading.Thread(target=time.sleep, args=(3,), daemon=True).start()": "thread",
            "import builtins\nbuiltins.shout = 1": "builtins.shout",
        }
        for code, word in effects.items():
            with self.subTest(code):
                self.assertIn(word, self.found(code).effects)
        for code in (
            "import csv, statistics",
            "import scipy.stats as s; s.norm.fit([1, 2])",
            "import pandas as pd; pd.Series([1]).plot()",
        ):
            with self.subTest(code):
                self.assertEqual(self.found(code).effects, "")

    def test_names_read_written_and_deleted(self) -> None:
        made = self.found("a = [1]\nb = 2\ndef f():\n    return a")
        self.assertEqual((sorted(made.names), made.reads), (["a", "b", "f"], ()))
        self.assertTrue(made.names["f"].provider.definition)
        table = {name: standing(bound) for name, bound in made.names.items()}
        used = self.found("f().append(2)", table=table)
        self.assertEqual((used.reads, sorted(used.names)), (("a", "f"), ["a"]))
        gone = self.found("del b\nprint('x' in globals())")
        self.assertEqual((gone.deleted, "x" in gone.absent), (("b",), True))

    def test_a_name_that_only_running_can_give_is_asked_for(self) -> None:
        table = {"g": Standing("elsewhere", "live:x", {"live": True})}
        ran = self.session.run(
            ChunkTask("it", "try:\n    next(g)\nexcept Exception:\n    pass", 5, 30), Position(table)
        )
        self.assertEqual(ran.needs, "g")

    def test_packages_behind_the_values_that_were_used(self) -> None:
        made = self.found("import pandas as pd\nframe = pd.DataFrame({'a': [1]})")
        self.assertIn("pandas", made.packages)
        self.assertEqual(self.found("1 + 1").packages, ())
        table = {"frame": standing(made.names["frame"])}
        self.assertEqual(self.found("frame.a.sum()", table=table).packages, made.packages)

    def test_packages_that_a_library_works_with_whoever_had_it_loaded(self) -> None:
        """One is asked for while it is loaded, one while it works; its requirements speak of neither."""
        home = self.folder / "site-packages"
        for name, code in {
            "worn_ledger/__init__.py": "from . import lines\nfrom importlib import import_module\ndef total():\n    return import_module('worn_sums').one",
            "worn_ledger/lines.py": "try:\n    import worn_rules\nexcept ImportError:\n    pass",
            "worn_rules.py": "", "worn_sums.py": "one = 1",
        }.items():  # fmt: skip
            (home / name).parent.mkdir(parents=True, exist_ok=True)
            (home / name).write_text(code)
        (self.folder / "desk.py").write_text("import worn_ledger\n")
        ways = {
            "def f(): pass\nf()": (),
            "import desk": ("worn_ledger", "worn_rules"),
            "import worn_ledger": ("worn_ledger", "worn_rules"),
            "from worn_ledger import total; total()": ("worn_ledger", "worn_rules", "worn_sums"),
        }
        for code in [*ways, *ways]:
            with self.subTest(code):
                found = self.found(f"import sys; sys.path.append({str(home)!r})\n{code}")
                self.assertEqual(found.packages, ways[code])
