"""Debian's Chromium without a window, and the accessibility checker inside it."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Any

CHECKERS = Path(__file__).parent / "checkers/node_modules"
FLAGS = (
    "--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
    "--disable-component-update --disable-sync --hide-scrollbars"
).split()


def chromium(width: int = 1280, height: int = 800) -> Any:
    """A browser; quit it when done."""
    from selenium import webdriver

    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in (*FLAGS, f"--window-size={width},{height}", f"--user-data-dir={tempfile.mkdtemp()}"):
        options.add_argument(flag)
    return webdriver.Chrome(options, webdriver.ChromeService("/usr/bin/chromedriver"))


def accessibility_faults(browser: Any, page: Path, dark: bool = False) -> list[str]:
    """What the checker finds wrong with `page`, a line a fault."""
    scheme = "dark" if dark else "light"
    media = {"features": [{"name": "prefers-color-scheme", "value": scheme}]}
    browser.execute_cdp_cmd("Emulation.setEmulatedMedia", media)
    browser.get(page.resolve().as_uri())
    browser.execute_script((CHECKERS / "axe-core/axe.min.js").read_text(encoding="utf-8"))
    found = browser.execute_async_script("axe.run().then(arguments[arguments.length - 1])")
    return [
        f"{fault['id']}: {fault['help']}: {json.dumps([node['html'][:160] for node in fault['nodes'][:3]])}"
        for fault in found["violations"]
    ]
