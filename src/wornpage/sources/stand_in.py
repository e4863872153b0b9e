"""A small stand-in for a resolver of DOIs, on loopback: for trying `worn sources add` without a network.

`python -m wornpage.sources.stand_in works.json` serves the works of a CSL-JSON file by their DOIs and says its address.
"""

from __future__ import annotations

import json
import sys
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from urllib.parse import unquote


def resolver(works: list[dict[str, object]], port: int = 0) -> ThreadingHTTPServer:
    """A server on 127.0.0.1 that answers for these works; start it with `serve_forever`."""
    by_doi = {str(work["DOI"]).lower(): work for work in works if work.get("DOI")}

    class Answers(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            work = by_doi.get(unquote(self.path).lstrip("/").lower())
            wanted = "citationstyles.csl+json" in (self.headers.get("Accept") or "")
            if work is None or not wanted:
                self.send_error(404 if work is None else 406)
                return
            data = json.dumps(work, ensure_ascii=False).encode("utf-8")
            self.send_response(200)
            self.send_header("Content-Type", "application/vnd.citationstyles.csl+json; charset=utf-8")
            self.send_header("Content-Length", str(len(data)))
            self.end_headers()
            self.wfile.write(data)

        def log_message(self, *arguments: object) -> None:
            """Say nothing."""

    return ThreadingHTTPServer(("127.0.0.1", port), Answers)


def main(arguments: list[str]) -> None:
    """Serve a file of works until broken off."""
    if len(arguments) != 1:
        sys.exit("usage: python -m wornpage.sources.stand_in WORKS.json")
    server = resolver(json.loads(Path(arguments[0]).read_text(encoding="utf-8")))
    sys.stdout.write(f"http://127.0.0.1:{server.server_port}/\n")
    sys.stdout.flush()
    try:
        server.serve_forever()
    except KeyboardInterrupt:
        server.server_close()


if __name__ == "__main__":
    main(sys.argv[1:])
