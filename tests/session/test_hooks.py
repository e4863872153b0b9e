"""What is done as soon as a module has been imported, once, and whose modules are the project's before they are loaded."""

import sys
import unittest
from importlib import import_module
from types import ModuleType
from unittest import mock

from tests.support import FolderCase
from wornpage.session.python import hooks, modules


class Hooks(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        finder = hooks._Finder()
        sys.meta_path.insert(0, finder)
        sys.path.insert(0, str(self.folder))
        self.addCleanup(sys.meta_path.remove, finder)
        self.addCleanup(sys.path.remove, str(self.folder))
        self.heard: list[str] = []

    def module(self, name: str, text: str = "x = 1\n") -> str:
        self.write(f"{name.replace('.', '/')}.py", text)
        self.addCleanup(sys.modules.pop, name, None)
        return name

    def wait(self, name: str) -> None:
        hooks.after_import(name, lambda module: self.heard.append(f"{module.__name__} {module.x}"))

    def test_it_is_done_once_when_the_module_is_whole(self) -> None:
        name = self.module("worn_hooked_one", "x = 1\nx = 2\n")
        self.wait(name)
        self.wait(name)
        self.assertEqual(self.heard, [])
        import_module(name)
        self.assertEqual(self.heard, [f"{name} 2"] * 2)
        self.wait(name)
        self.assertEqual(len(self.heard), 3)
        del sys.modules[name]
        import_module(name)
        self.assertEqual(len(self.heard), 3)

    def test_modules_within_others_and_those_that_fail(self) -> None:
        outer, inner = (
            self.module("worn_hooked_two", "import worn_hooked_three\nx = worn_hooked_three.x\n"),
            self.module("worn_hooked_three"),
        )
        for name in (outer, inner, "worn_hooked_none"):
            self.wait(name)
        import_module(outer)
        self.assertEqual(self.heard, [f"{inner} 1", f"{outer} 1"])
        bad = self.module("worn_hooked_bad", "x = 1\n1 / 0\n")
        self.wait(bad)
        with self.assertRaises(ZeroDivisionError):
            import_module(bad)
        self.write(f"{bad}.py", "x = 3\n")
        sys.modules.pop(bad, None)
        import_module(bad)
        self.assertEqual(self.heard[2:], [f"{bad} 3"])

    def test_whose_a_module_is_is_known_before_it_is_loaded(self) -> None:
        for name, before in (("_folder", modules._folder), ("_local", {}), ("_looked_through", [None, []])):
            patch = mock.patch.object(modules, name, before)
            patch.start()
            self.addCleanup(patch.stop)
        modules.set_folder(str(self.folder))
        own = self.module("worn_hooked_own")
        self.write("worn_package/__init__.py", "")
        self.assertTrue(modules.is_of_project(own))
        self.assertTrue(modules.is_of_project("worn_package.inner.deep"))
        self.assertNotIn(own, sys.modules)
        for name in ("json", "numpy.linalg", "sndhdr", "wornpage", "worn_no_such_module", "sys", ""):
            self.assertFalse(modules.is_of_project(name), name)
        made = ModuleType("worn_hooked_made")
        sys.modules["worn_hooked_made"] = made
        self.addCleanup(sys.modules.pop, "worn_hooked_made")
        self.assertFalse(modules.is_of_project("worn_hooked_made"))


if __name__ == "__main__":
    unittest.main()
