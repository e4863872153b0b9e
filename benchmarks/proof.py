"""From save to changed page, measured in the browser: `python -m benchmarks.proof`. Medians of milliseconds."""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tests.browser import chromium
from wornpage.demo import write_demo

TURNS = 9
_SEEN = """
window.seen = 0;
const look = () => { if (%s) { window.seen = Date.now(); watcher.disconnect(); } };
const watcher = new MutationObserver(look);
watcher.observe(document, { subtree: true, childList: true, characterData: true, attributes: true });
"""


class Proof:
    """A proof of a page, and a browser that looks at it."""

    def __init__(self, browser: Any, page: Path, *options: str) -> None:
        self.browser, self.page = browser, page
        self.text = page.read_text(encoding="utf-8")
        command = [sys.executable, "-m", "wornpage", "proof", page.name, "--no-open", *options]
        self.process = subprocess.Popen(command, cwd=page.parent, stdout=subprocess.PIPE, text=True)
        assert self.process.stdout is not None
        browser.get(self.process.stdout.readline().strip())
        self.wait("document.querySelector('main') && document.documentElement.dataset.wornVersion")

    def wait(self, script: str) -> None:
        """Until it is so."""
        end = time.monotonic() + 60
        while not self.browser.execute_script(f"return !!({script})"):
            if time.monotonic() > end:
                raise TimeoutError(script)
            time.sleep(0.01)

    def milliseconds(self, change: Callable[[int], tuple[str, str]], seen: Callable[[int], str] | None = None) -> float:
        """The median from a save to what is seen of it; the first of each kind is not counted."""
        found = []
        for turn in range(TURNS + 1):
            old, new = change(turn)
            script = seen(turn) if seen else f"document.querySelector('main').textContent.includes({new!r})"
            self.browser.execute_script(
                f"const was = [...document.querySelectorAll('.worn-sheets')].pop()?.src; {_SEEN % script}"
            )
            begun = time.time() * 1000
            self.page.write_text(self.text.replace(old, new), encoding="utf-8")
            self.wait("window.seen")
            found.append(self.browser.execute_script("return window.seen") - begun)
            time.sleep(0.5)
        return statistics.median(found[1:])

    def close(self) -> None:
        """End it."""
        self.process.terminate()
        self.process.wait(20)


def long_page(folder: Path) -> Path:
    """About 300 sheets of prose, tables and formulas."""
    words = "Paper wears out in two ways, by acid on the shelf and by folding in the hand. " * 14
    parts = ["---\ntitle: A long page\n---\n"]
    for i in range(300):
        table = "| a | b |\n|---|---|\n" + "".join(f"| {i} | {j} |\n" for j in range(8))
        parts.append(
            f"# Section {i} {{#s{i}}}\n\nWords of {i}.\n\n{words}\n\n{words}\n\nSee {{see t{i}}}.\n\n{table}Caption: Of {i}.\nLabel: t{i}\n"
        )
    page = folder / "long.md"
    page.write_text("\n".join(parts), encoding="utf-8")
    return page


def main() -> None:
    """Measure and tell."""
    browser = chromium()
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        write_demo(folder)
        demo = folder / "paper-wear.md"
        proof = Proof(browser, demo)
        told = proof.milliseconds(lambda turn: ("Damp does two things", f"Damp does {turn} odd things"))
        print(f"the demo, a word changed: {told:.0f} ms   (goal 150)")
        demo.write_text(proof.text, encoding="utf-8")
        told = proof.milliseconds(lambda turn: ("= damp_days.idxmax()", f"= damp_days.idxmax() + ' {turn}x'"), lambda turn: f"document.body.textContent.includes(' {turn}x')")  # fmt: skip
        print(f"the demo, a chunk of 10 ms changed: {told:.0f} ms   (goal 300)")
        proof.close()
        demo.write_text(proof.text, encoding="utf-8")
        proof = Proof(browser, demo, "--as", "pdf")
        proof.wait("document.querySelector('.worn-sheets')")
        told = proof.milliseconds(lambda turn: ("Damp does two things", f"Damp does {turn} odd things"), lambda turn: "[...document.querySelectorAll('.worn-sheets')].pop().src !== was")  # fmt: skip
        print(f"the demo, a word changed, sheets beside: {told:.0f} ms   (goal 500)")
        proof.close()
        proof = Proof(browser, long_page(folder))
        told = proof.milliseconds(lambda turn: ("Words of 150.", f"Words of 150 and {turn}."))
        print(f"300 sheets, a word changed: {told:.0f} ms   (goal 400)")
        proof.close()
    browser.quit()


if __name__ == "__main__":
    main()
