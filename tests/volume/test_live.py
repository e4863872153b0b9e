"""A site served on loopback: nothing but its folder, to nobody but this machine's browser; a volume kept as its sources are."""

import http.client
import signal
import subprocess
import sys
import time
import urllib.parse

from tests.volume.made import VolumeCase


class Live(VolumeCase):
    def serve(self, *arguments: str) -> str:
        """Start a server; its address."""
        process = subprocess.Popen([sys.executable, "-m", "wornpage", *arguments, "--no-open"], cwd=self.folder, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)  # fmt: skip
        self.addCleanup(process.communicate)
        self.addCleanup(process.send_signal, signal.SIGINT)
        assert process.stdout is not None
        return process.stdout.readline().strip()

    def asked(self, address: str, path: str = "", **headers: str) -> tuple[int, str]:
        """Status and text of an answer; the path is sent as it is."""
        place = urllib.parse.urlsplit(address)
        connection = http.client.HTTPConnection(place.hostname or "", place.port, timeout=20)
        connection.request("GET", place.path + path, headers=headers)
        answer = connection.getresponse()
        told = answer.status, answer.read().decode("utf-8", "replace")
        connection.close()
        return told

    def until(self, address: str, path: str, words: str) -> str:
        """Ask again until a page says something."""
        end = time.monotonic() + 60
        while True:
            status, text = self.asked(address, path)
            if status == 200 and words in text:
                return text
            self.assertLess(time.monotonic(), end, f"{path} never said {words!r}")
            time.sleep(0.2)

    def test_a_folder_and_nothing_else(self) -> None:
        self.bound()
        address = self.serve("serve", "bound")
        self.assertEqual(self.asked(address, "chapters/damp-2.html")[0], 200)
        self.assertNotIn("live.js", self.asked(address, "index.html")[1])
        for path in (
            "../volume.yaml",
            "%2e%2e/volume.yaml",
            "..%2fvolume.yaml",
            "chapters/%2e%2e/%2e%2e/worn.yaml",
            "nowhere.html",
            "chapters",
            "%00",
        ):
            self.assertEqual(self.asked(address, path)[0], 404, path)
        root = address[: address.index("/", 8) + 1]
        self.assertEqual(self.asked(root, "index.html")[0], 404, "without the part that nobody can guess")
        self.assertEqual(self.asked(address, "index.html", Host="evil.example")[0], 403)

    def test_every_save_shows(self) -> None:
        address = self.serve("proof", ".")
        self.until(address, "chapters/damp-2.html", "Wet words")
        self.change("chapters/damp-2.md", "Wet words", "Dry words")
        self.assertIn("live.js", self.until(address, "chapters/damp-2.html", "Dry words"))
        self.change("volume.yaml", "pages: [chapters/paper.md]", "pages: [chapters/damp-10.md, chapters/paper.md]")
        self.until(address, "preface.html", "Chapter\u00a02")
        self.change("volume.yaml", "title: The", "titel: The")
        time.sleep(1.5)
        self.change("volume.yaml", "titel: The", "title: This")
        self.until(address, "index.html", "This handbook")
        self.assertFalse((self.folder / "bound").exists(), "a proof writes nothing beside the sources")

    def test_saves_beyond_the_folder_show_and_what_pages_write_themselves_is_no_news(self) -> None:
        self.write("worn.yaml", "")
        self.write("shared/words.md", "# Shared\n\nSaid {= open('words.txt').read()}.\n")
        self.write("shared/words.txt", "once")
        always = "with open('count.txt', 'a') as file:\n    file.write('.')"
        self.write("book/busy.md", f"# Busy\n\n```python run rerun=always\n{always}\n```\n")
        self.write("book/volume.yaml", "title: Book\npages: [busy.md, ../shared/words.md]\n")
        address = self.serve("proof", "book")
        self.until(address, "words.html", "Said once")
        self.write("shared/words.txt", "twice")
        self.until(address, "words.html", "Said twice")
        self.write("shared/words.md", "# Shared\n\nNow {= open('words.txt').read()}.\n")
        self.until(address, "words.html", "Now twice")
        time.sleep(2)
        ran = len((self.folder / "book/count.txt").read_text())
        time.sleep(2.5)
        self.assertEqual(len((self.folder / "book/count.txt").read_text()), ran, "what it writes itself is no news")
        self.assertTrue(2 < ran < 8, ran)  # at the beginning and for each save, which may be seen in two pieces
