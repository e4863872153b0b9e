"""What a session tells of a chunk beside its output: all it read, wrote and left behind."""

import os
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from wornpage.session.process import ChunkTask, Position, Session
from wornpage.store.files import listing


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
        self.session = Session()
        self.addCleanup(self.session.close)
        self.session.open(self.folder, "p.md", {"branch-name": "Quayside"}, str(self.folder / ".worn/blobs"))
        self.number = 0

    def found(self, code: str, **place: Any) -> dict[str, Any]:
        """What is told of a chunk; fails if the chunk fails."""
        self.number += 1
        ran = self.session.run(ChunkTask("it", code, 5, 30, version=f"v{self.number}"), Position(**place))
        self.assertIsNone(ran.result.failure, ran.result)
        return ran.found

    def test_files_however_they_are_read(self) -> None:
        ways = {
            "open('in/a.txt').read()": [["in/a.txt", "file"]],
            "from pathlib import Path; Path('in/a.txt').read_bytes()": [["in/a.txt", "file"]],
            "import os; os.path.exists('in/b.txt')": [["in/b.txt", "file"]],
            "import subprocess; subprocess.run(['cat', 'in/a.txt'])": [["in/a.txt", "file"]],
            "import os; os.listdir('in')": [["in", "listing"]],
            "import sqlite3; sqlite3.connect('in/a.txt')": [["in/a.txt", "file"]],
        }
        for code, wanted in ways.items():
            with self.subTest(code):
                found = [[path, kind] for path, kind, _ in self.found(code)["files"]]
                for read in wanted:
                    self.assertIn(read, found)

    def test_files_that_are_written_are_results_and_not_reads(self) -> None:
        found = self.found("with open('out.txt', 'w') as f: f.write('x')\nopen('out.txt').read()")
        self.assertEqual([path for path, _ in found["written"]], ["out.txt"])
        self.assertEqual([path for path, *_ in found["files"]], [])
        found = self.found("import subprocess; subprocess.run('echo y > by-child.txt', shell=True)")
        self.assertEqual([path for path, _ in found["written"]], ["by-child.txt"])
        self.assertTrue(found["spawned"])

    def test_a_folder_counts_as_it_was_when_it_was_looked_through(self) -> None:
        before = listing(str(self.folder / "in"))
        found = self.found("import os; os.listdir('in'); open('in/new.txt', 'w').close(); os.listdir('in')")
        self.assertIn(["in", "listing", before], found["files"])
        found = self.found("import os; open('in/x', 'w').close(); os.listdir('in'); os.remove('in/x')")
        self.assertIn(["in", "listing", listing(str(self.folder / "in"))], found["files"])
        made = "import os, shutil; os.mkdir('own'); open('own/a', 'w').close(); os.listdir('own'); shutil.rmtree('own')"
        self.assertEqual([path for path, *_ in self.found(made)["files"]], [])

    def test_what_lies_beside_the_project_counts_and_what_is_installed_goes_by_its_version(self) -> None:
        with TemporaryDirectory() as place:
            (Path(place) / "beside.py").write_text("k = 1\n")
            (Path(place) / "data.txt").write_text("1")
            found = self.found(
                f"import sys; sys.path.append({place!r}); import beside; open({place!r} + '/data.txt').read()"
            )
            self.assertIn([f"{place}/data.txt", "file"], [[path, kind] for path, kind, _ in found["files"]])
            self.assertEqual((list(found["modules"]), found["modules_read"]), (["beside"], ["beside"]))
        found = self.found("from importlib.metadata import version; version('msgspec')")
        self.assertEqual((found["asked_of"], found["files"]), (["msgspec"], []))
        self.assertEqual(self.found("import json; json.dumps([])")["modules"], {})

    def test_logging_filters_and_numbers_count_for_code_that_asks(self) -> None:
        asks = {"import logging; logging.getLogger('a').level": {"logging"}, "import warnings; len(warnings.filters)": {"warnings"},
                "__import__('logging').root.handlers": {"logging"}, "x = 1": set(),
                "import threading; t = threading.Thread(target=len, args=('',)); t.start(); t.join()": {"numbers of threads"}}  # fmt: skip
        for code, wanted in asks.items():
            with self.subTest(code):
                seen = set(self.found(code)["coarse"])
                self.assertEqual(seen & {"logging", "warnings", "numbers of threads", "numbers of pools"}, wanted)

    def test_variables_given_values_and_seeds_only_where_they_are_used(self) -> None:
        found = self.found(
            "import os; os.environ.get('WORN_TEST_VARIABLE'), os.environ.get('WORN_NONE'), given.branch_name"
        )
        self.assertEqual(found["environment"], {"WORN_NONE": "gone", "WORN_TEST_VARIABLE": "=set"})
        self.assertEqual((found["given"], found["seed"]), (["branch_name"], False))
        found = self.found("import random; random.random()")
        self.assertEqual((found["environment"], found["given"], found["seed"]), ({}, [], True))
        self.assertTrue(self.found("import numpy as np; np.random.default_rng().random()")["seed"])
        self.assertFalse(self.found("import numpy as np; np.random.default_rng(3).random()")["seed"])

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
                told = self.found(code)["ambient"]
                self.assertIn(item, told)
                # Elsewhere in the page it is in its first state again, and where it holds it holds exactly.
                self.assertNotIn(item, self.found("1")["ambient"])
                self.assertEqual(self.found("1", ambient={item: told[item]})["ambient"], {})

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
                self.assertIn(word, self.found(code)["effects"])
        for code in (
            "import csv, statistics",
            "import scipy.stats as s; s.norm.fit([1, 2])",
            "import pandas as pd; pd.Series([1]).plot()",
        ):
            with self.subTest(code):
                self.assertEqual(self.found(code)["effects"], "")

    def test_names_read_written_and_deleted(self) -> None:
        made = self.found("a = [1]\nb = 2\ndef f():\n    return a")
        self.assertEqual((sorted(made["names"]), made["reads"]), (["a", "b", "f"], []))
        self.assertIn("definition", made["names"]["f"]["provider"])
        table = {name: {"version": "v1", **told} for name, told in made["names"].items()}
        used = self.found("f().append(2)", table=table)
        self.assertEqual((used["reads"], sorted(used["names"])), (["a", "f"], ["a"]))
        gone = self.found("del b\nprint('x' in globals())")
        self.assertEqual((gone["deleted"], "x" in gone["absent"]), (["b"], True))

    def test_a_name_that_only_running_can_give_is_asked_for(self) -> None:
        table = {"g": {"version": "elsewhere", "print": "live:x", "provider": {"live": True}}}
        ran = self.session.run(
            ChunkTask("it", "try:\n    next(g)\nexcept Exception:\n    pass", 5, 30), Position(table)
        )
        self.assertEqual(ran.needs, "g")

    def test_packages_behind_the_values_that_were_used(self) -> None:
        made = self.found("import pandas as pd\nframe = pd.DataFrame({'a': [1]})")
        self.assertIn("pandas", made["packages"])
        self.assertEqual(self.found("1 + 1")["packages"], [])
        table = {"frame": {"version": "v1", **made["names"]["frame"]}}
        self.assertEqual(self.found("frame.a.sum()", table=table)["packages"], ["pandas"])
