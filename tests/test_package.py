"""The package's face, and what it costs to import it."""

import subprocess
import sys
import unittest

import wornpage


class Package(unittest.TestCase):
    def test_every_public_name_is_there(self) -> None:
        for name in wornpage.__all__:
            self.assertTrue(hasattr(wornpage, name), name)
        with self.assertRaises(AttributeError):
            wornpage.nonesuch  # noqa: B018 - the look-up is the test

    def test_importing_loads_nothing_heavy_and_pressing_never_imports_what_sessions_use(self) -> None:
        code = (
            "import sys, pathlib, tempfile, wornpage\n"
            "light = {m.split('.')[0] for m in sys.modules}\n"
            "assert not light & {'pydantic', 'typer', 'rich', 'markdown_it', 'jinja2'}, light\n"
            "import wornpage.session.python.driver\n"
            "assert not {m.split('.')[0] for m in sys.modules} & {'pydantic', 'typer', 'markdown_it', 'numpy'}\n"
            "page = pathlib.Path(tempfile.mkdtemp()) / 'p.md'\n"
            "page.write_text('{= 1}\\n\\n```python run\\nimport pandas as pd; pd.DataFrame({\"a\": [1]})\\n```')\n"
            "wornpage.press(page)\n"
            "assert not {m.split('.')[0] for m in sys.modules} & {'pandas', 'numpy', 'matplotlib', 'typer', 'typst'}\n"
        )
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
        self.assertEqual(done.stderr, "")
