"""The pack for Neovim, unpacked where the editor looks for it and used in the editor itself."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import zipfile
from pathlib import Path
from typing import Any

from tests.support import FolderCase
from tools.pack_editors import pack

PAGE = """\
---
title: Damp
---

# Rooms {#rooms}

```python run #hours show=output
hours = [3, 4]
print("first\\nsecond", sum(hours))
```

```python run #more
nothing = hours[0]
```

See {see nowhere} and {= sum(hours)}.
"""
ASKED = """
local function until_(holds) return vim.wait(30000, holds, 50) end
local out = {}
vim.cmd("edit page.md")
out.client = until_(function() return #vim.lsp.get_active_clients() == 1 end)
until_(function() return #vim.diagnostic.get(0) > 0 end)
out.found = vim.tbl_map(function(one) return { one.lnum, one.message } end, vim.diagnostic.get(0))
vim.fn.search("see nowhere")
vim.api.nvim_win_set_cursor(0, { vim.fn.line("."), 9 })
out.offered = {}
for _, answer in pairs(vim.lsp.buf_request_sync(0, "textDocument/completion", vim.lsp.util.make_position_params(), 20000) or {}) do
  for _, item in ipairs(answer.result.items) do table.insert(out.offered, item.label) end
end
vim.fn.search("print", "w")
vim.cmd("WornRun")
local function shown()
  local window = vim.fn.bufwinid("worn: output")
  return window > 0 and vim.api.nvim_buf_get_lines(vim.api.nvim_win_get_buf(window), 0, -1, false) or {}
end
local function said(words) return function() return table.concat(shown(), "\\n"):find(words, 1, true) ~= nil end end
until_(said("second 7"))
out.ran = shown()
vim.api.nvim_buf_set_lines(0, -2, -1, false, { "See {see rooms}." })
vim.cmd("WornPress html")
until_(said("pressed"))
out.pressed = shown()
out.window = vim.api.nvim_buf_get_name(0):match("[^/]*$")
vim.cmd("edit plain.md")
out.attached = vim.lsp.buf_get_clients(0)
out.commands = vim.fn.exists(":WornRun")
io.open("out.json", "w"):write(vim.fn.json_encode(out))
vim.cmd("qall!")
"""


class Neovim(FolderCase):
    def test_a_page_is_helped_with_run_and_pressed(self) -> None:
        site = self.folder / "data" / "nvim" / "site" / "pack" / "worn" / "start"
        with zipfile.ZipFile(pack("neovim", self.folder / "packed")) as archive:
            archive.extractall(site)
        self.write("page.md", PAGE)
        self.write("plain.md", "# Not a page\n\nOnly words.\n")
        self.write("asked.lua", ASKED)
        said = self.neovim()
        out: dict[str, Any] = (
            json.loads((self.folder / "out.json").read_text()) if (self.folder / "out.json").is_file() else {}
        )
        self.assertTrue(out.get("client"), said)
        self.assertIn([15, "nothing is labelled 'nowhere'."], [[line, words[:30]] for line, words in out["found"]])
        self.assertIn("rooms", out["offered"])
        self.assertIn("second 7", "\n".join(out["ran"]))
        self.assertIn("page.html", "\n".join(out["pressed"]))
        self.assertTrue((self.folder / "page.html").is_file())
        self.assertEqual((out["window"], out["commands"], len(out["attached"])), ("page.md", 0, 0))

    def neovim(self) -> str:
        """Run the editor on what is asked; what it said."""
        programs = f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"
        here = {f"XDG_{name}_HOME": str(self.folder / name.lower()) for name in ("DATA", "CONFIG", "STATE", "CACHE")}
        done = subprocess.run(
            ["nvim", "--headless", "-n", "-c", "luafile asked.lua"], cwd=self.folder, env={**os.environ, **here, "PATH": programs},
            capture_output=True, text=True, timeout=150, check=False, stdin=subprocess.DEVNULL,
        )  # fmt: skip
        return done.stdout + done.stderr
