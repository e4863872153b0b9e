"""The desk as readers, owners and strangers meet it: the real program, asked over the network."""

from __future__ import annotations

import json
import os
import re
import signal
import stat
import threading
import time
from pathlib import Path
from typing import Any
from unittest import mock
from urllib.parse import quote

from tests.desk.asking import Desk, Visitor, until
from tests.support import FolderCase, worn

TRIAL = """
---
title: "Trial of {= given.room}"
abstract: "About {= n} things (see {see #end})."
limits: {time: 4s}
desk: {offers: pdf}
given:
  room: {default: Quayside, one-of: [Quayside, Mill pond & Co], title: The room}
  above: {default: 60, from: 40, to: 80, step: 5, unit: "%"}
  day: {default: 2026-03-01, from: 2026-01-01}
  shelves: {default: [a, b], type: list, one-of: [a, b, c]}
  must: {type: text, required: yes}
  wait: 0
---

```python run #shared show=nothing
import os, time
n = 3
```

```python run #own show=nothing
time.sleep(given.wait)
if given.must == "fail":
    raise ValueError("a secret of the code")
if given.must == "exit":
    os._exit(3)
stamp = given.must.upper()
```

Room {= given.room}, above {= given.above}, {= ",".join(given.shelves) or "no"} shelves, must {= stamp}.

## End {#end}
"""


class DeskCase(FolderCase):
    def desk(self, *arguments: str, **pages: str) -> Desk:
        """A desk for some pages; for the trial where none are named."""
        for name, text in (pages or {"trial": TRIAL}).items():
            self.write(f"{name}.md", text)
        desk = Desk(self.folder, *[f"{name}.md" for name in pages or ("trial",)], *arguments)
        self.addCleanup(desk.close)
        return desk


class Reports(DeskCase):
    def test_values_are_picked_and_the_report_comes(self) -> None:
        visitor = Visitor(self.desk().address)
        self.assertEqual(visitor.ask("").headers["location"], "p/trial/")
        page = visitor.ask("p/trial/?room=Mill+pond+%26+Co&shelves=").text
        self.assertIn('<option value="Mill pond &amp; Co" selected>', page)
        self.assertNotIn("checked", page)
        self.assertIn("Trial of …", page)
        made = visitor.report("trial", {"must": "x", "room": "Mill pond & Co", "shelves": []})
        self.assertIn("Room Mill pond &amp; Co, above 60, no shelves, must X.", re.sub(r"<[^>]+>", "", made))
        self.assertTrue(visitor.report("trial", {"must": "x"}, "pdf").startswith("%PDF"))
        self.assertEqual(visitor.wish("trial", {"must": "x"}, "docx").get("key"), None)  # which it does not offer

    def test_values_are_checked_as_the_command_line_checks(self) -> None:
        visitor = Visitor(self.desk().address)
        faults = visitor.wish("trial", {"above": "63", "room": "Quaysid", "day": "2025-01-01", "other": "1"})["faults"]
        self.assertEqual(set(faults), {"above", "room", "day", "other", "must"})
        self.assertIn("Quayside", faults["room"])
        self.assertNotIn("--given", " ".join(faults.values()))
        self.assertEqual(set(visitor.wish("trial", {"must": {"a": 1}, "room": [["x"]]})["faults"]), {"must", "room"})

    def test_what_fails_is_told_without_code_to_readers_and_in_full_to_the_owner(self) -> None:
        desk = self.desk()
        visitor = Visitor(desk.address)
        for must in ("fail", "exit"):
            told = visitor.report("trial", {"must": must})
            self.assertIn("failed: This report could not be made", told)
            self.assertNotIn("secret", told)
        self.assertTrue(until(lambda: "os._exit(3)" in desk.said()))
        self.assertIn("ValueError: a secret of the code", desk.said())
        self.assertRegex(desk.said(), r"trial\.md:\d+:1: in chunk `own`")
        self.assertIn("must X.", re.sub(r"<[^>]+>", "", visitor.report("trial", {"must": "x"})))

    def test_what_takes_too_long_is_ended(self) -> None:
        desk = self.desk()
        begun = time.monotonic()
        told = Visitor(desk.address).report("trial", {"must": "x", "wait": 60})
        self.assertIn("took longer", told)
        self.assertLess(time.monotonic() - begun, 20)
        self.assertTrue(until(lambda: "limits:" in desk.said()))

    def test_a_change_meanwhile_ends_what_runs_and_nothing_runs_twice_for_two(self) -> None:
        counting = TRIAL.replace(
            "stamp = given.must.upper()",
            'print(given.must, file=open(os.environ["HOME"] + "/ran.txt", "a"))\nstamp = given.must.upper()',
        )
        os.environ["HOME"], home = str(self.folder), os.environ["HOME"]
        self.addCleanup(os.environ.__setitem__, "HOME", home)
        visitor = Visitor(self.desk("--jobs", "1", trial=counting.replace("time: 4s", "time: 60s")).address)
        slow = visitor.wish("trial", {"must": "slow", "wait": 40})["key"]
        self.assertTrue(until(lambda: self.stands(visitor, slow) == "running"))
        begun = time.monotonic()
        others = [
            threading.Thread(target=visitor.report, args=("trial", {"must": "both"}, "html", by))
            for by in ("tab", "tab2", "tab3")
        ]
        for one in others:
            one.start()
        for one in others:
            one.join()
        self.assertLess(time.monotonic() - begun, 20)
        self.assertEqual((self.folder / "ran.txt").read_text().split(), ["both"])

    def stands(self, visitor: Visitor, key: str) -> str:
        """How a wish stands, looked at for a moment."""
        import http.client

        line = http.client.HTTPConnection(visitor.address.hostname or "", visitor.address.port or 0, timeout=10)
        line.request("GET", f"{visitor.address.path}p/trial/told?key={key}&by=tab", headers={"Cookie": visitor.cookie})
        told = line.getresponse()
        while not (text := told.readline()).startswith(b"data:"):
            pass
        line.close()
        return str(json.loads(text[5:])["state"])

    def test_an_edit_of_the_page_counts_from_then_on(self) -> None:
        visitor = Visitor(self.desk().address)
        self.assertNotIn("new words", visitor.report("trial", {"must": "x"}))
        self.write("trial.md", TRIAL.replace("Room {=", "With new words: {=").replace("[a, b, c]", "[a, b, c, d]"))
        self.assertIn("new words", visitor.report("trial", {"must": "x", "shelves": ["d"]}))
        self.write("trial.md", "---\ngiven: [\n---\n")
        self.assertEqual(visitor.ask("p/trial/").status, 503)
        self.assertIn("cannot be made just now", visitor.wish("trial", {})["why"])
        for path in ("p/trial/report?must=x", "p/trial/made/abc/html"):
            self.assertEqual(visitor.ask(path).status, 503)
        self.assertEqual(visitor.ask("p/trial/kept", {"name": "x", "given": {}}).status, 503)
        self.write("trial.md", TRIAL)
        self.assertEqual(visitor.ask("p/trial/").status, 200)

    def test_an_output_that_there_is_not_is_told_to_the_owner_with_its_place(self) -> None:
        desk = self.desk(trial=TRIAL.replace("offers: pdf", "offers: [pdf, dcx]"))
        self.assertEqual(Visitor(desk.address).ask("p/trial/").status, 503)
        self.assertRegex(desk.said(), r"trial\.md:5:\d+: there is no output 'dcx'. Did you mean 'docx'")

    def test_several_pages_make_a_front_page(self) -> None:
        other = "---\ntitle: Another <page>\nabstract: Its words.\n---\nNothing to pick.\n"
        visitor = Visitor(self.desk(trial=TRIAL, other=other).address)
        front = visitor.ask("").text
        self.assertIn("Another &lt;page&gt;", front)
        self.assertIn("About … things (see …).", front)
        self.assertIn("Nothing to pick.", visitor.report("other", {}))

    def test_without_scripts_the_report_comes_too(self) -> None:
        visitor = Visitor(self.desk().address)
        answer = visitor.ask("p/trial/report?must=x")
        self.assertEqual(answer.status, 303)
        self.assertIn("must X.", re.sub(r"<[^>]+>", "", visitor.ask("p/trial/" + answer.headers["location"]).text))
        self.assertEqual(visitor.ask("p/trial/report?above=1").status, 422)

    def test_kept_values_are_checked_and_lie_beside_the_page(self) -> None:
        visitor = Visitor(self.desk().address)
        self.assertIn("faults", visitor.ask("p/trial/kept", {"name": "x", "given": {"above": "1"}}).data())
        told = visitor.ask("p/trial/kept", {"name": "x", "given": {"must": "<y>"}}).data()
        self.assertEqual(told["sets"]["x"]["must"], "<y>")
        self.assertIn("x:", (self.folder / "trial.values.yaml").read_text())
        self.assertNotIn("<y>", visitor.ask("p/trial/").text)
        self.assertEqual(visitor.ask("p/trial/kept", {"drop": "x"}).data()["sets"], {})


class Strangers(DeskCase):
    """Nobody gets in by accident, or out of where they may go."""

    def test_the_address_is_the_key_and_stays_over_a_restart(self) -> None:
        desk = self.desk()
        stranger = Visitor(desk.address.rsplit("/", 2)[0] + "/")
        for path in ("", "p/trial/", "desk.css", "enter"):
            self.assertEqual(stranger.ask(path).status, 404)
        self.assertEqual(stat.S_IMODE((self.folder / ".worn/store/2/desk/secret").stat().st_mode), 0o600)
        desk.close()
        key = desk.address.rsplit("/", 2)[1]
        self.assertEqual(self.desk().address.rsplit("/", 2)[1], key)
        self.assertNotEqual(self.desk("--new-address").address.rsplit("/", 2)[1], key)

    def test_pages_of_other_sites_ask_in_vain(self) -> None:
        visitor = Visitor(self.desk().address)
        tries: list[dict[str, str]] = [
            {"Origin": "https://evil.example"},
            {"Sec_Fetch_Site": "cross-site"},
            {"Host": "evil.example"},
        ]
        for headers in tries:
            self.assertEqual(visitor.ask("p/trial/wish", {"given": {"must": "x"}}, **headers).status, 403)
        self.assertEqual(visitor.ask("p/trial/wish", "given=1").status, 415)

    def test_nothing_of_the_folder_can_be_had(self) -> None:
        visitor = Visitor(self.desk().address)
        place = visitor.wish("trial", {"must": "x"})["place"]
        start = visitor.address.path
        for path in ("../trial.md", "p/trial/made/../../secret/html", f"p/trial/made/{place}/md", "p/trial/made/..%2f..%2fsecret/html",
                     "p/..%2ftrial/", "p/trial/made/secret/html", f"p/trial/made/{place}/..%2f..%2fhtml", "p/nope/", "desk.py", "p/trial/made/x/html"):  # fmt: skip
            answer = visitor.ask(f"{start}{path}")
            self.assertIn(answer.status, {404, 403}, path)

    def test_values_are_data(self) -> None:
        desk = self.desk()
        visitor = Visitor(desk.address)
        nasty = "\"><script>alert(1)</script>{= 1 + 1}\n---\n'; import os"
        page = visitor.ask(f"p/trial/?must={quote(nasty)}&above={quote(nasty)}&day=%00&wait=%ff&shelves={quote(nasty)}")
        self.assertEqual(page.status, 200)
        self.assertNotIn("<script>alert", page.text)
        made = visitor.report("trial", {"must": nasty})
        self.assertNotIn("<SCRIPT>ALERT(1)", made)
        self.assertIn("{= 1 + 1}", made)
        self.assertEqual(visitor.ask("p/trial/wish", {"given": {"must": "y" * 300_000}}).status, 413)
        for body in ([1], "x", {"given": [1]}, {"given": {"must": None}}, {"as": ["html"]}, {"given": {"\ud800": "1"}}):
            for path in ("p/trial/wish", "p/trial/kept"):
                status = visitor.ask(path, body, Content_Type="application/json").status
                self.assertIn(status, {400, 404, 409, 415, 422, 200}, (path, body))
        for name in ("\ud800", "x\0y", "&: {}", "- a", ""):
            told = visitor.ask("p/trial/kept", {"name": name, "given": {"must": "z"}})
            self.assertIn(told.status, {200, 400, 409}, name)
            self.assertNotEqual(told.data(), {})
        self.assertNotIn("Traceback", desk.said())

    def test_what_is_served_may_do_next_to_nothing(self) -> None:
        visitor = Visitor(self.desk().address)
        own = visitor.ask("p/trial/").headers["content-security-policy"]
        self.assertIn("script-src 'self';", own)
        self.assertNotIn("unsafe", own)
        visitor.report("trial", {"must": "x"})
        place = visitor.wish("trial", {"must": "x"})["place"]
        report = visitor.ask(f"p/trial/made/{place}/html")
        policy = report.headers["content-security-policy"]
        self.assertTrue(policy.startswith("sandbox allow-scripts"))
        self.assertNotIn("allow-same-origin", policy)
        self.assertNotIn("connect-src", policy)  # so that it is that of `default-src 'none'`
        taken = visitor.ask(f"p/trial/made/{place}/html?take=1")
        self.assertIn("attachment", taken.headers["content-disposition"])
        self.assertEqual(taken.body, (self.folder / f".worn/store/2/desk/{place}/trial.html").read_bytes())

    def test_a_fault_of_ours_is_told_to_the_owner_and_not_to_strangers(self) -> None:
        from wornpage.desk.people import Door
        from wornpage.desk.server import DeskServer

        told: list[Any] = []
        server = DeskServer(
            [self.write("trial.md", TRIAL)], Door(), 1, 0, "127.0.0.1", lambda wish, what: told.append((wish, what))
        )
        threading.Thread(target=server.run, args=(lambda address: None,), daemon=True).start()
        with mock.patch("wornpage.desk.looks.desk", side_effect=ZeroDivisionError("of a secret")):
            answers = [Visitor(server.address).ask("p/trial/") for _ in range(3)]
        for one in answers:
            self.assertEqual(one.status, 500)
            self.assertIn("Something went wrong here", one.text)
            self.assertNotIn("secret", one.text)
        ((wish, (problem,)),) = told  # once
        self.assertEqual(wish.page, "trial")
        self.assertIn("ZeroDivisionError: of a secret", problem.what)
        self.assertEqual(Visitor(server.address).ask("p/trial/").status, 200)

    def test_who_asks_very_much_waits(self) -> None:
        visitor = Visitor(self.desk().address)
        visitor.ask("p/trial/")
        statuses = [visitor.ask("p/trial/wish", {"given": {}}).status for _ in range(150)]
        self.assertEqual(set(statuses), {422, 429})

    def test_it_is_never_open_by_accident(self) -> None:
        self.write("trial.md", TRIAL)
        for arguments in (
            ("--listen", "0.0.0.0"),
            ("--listen", "::"),
            ("--users", "none.txt"),
            ("--proxy", "10.0.0.1"),
            ("--users", "p.txt", "--named-by", "X-Who"),
        ):
            done = worn("desk", "trial.md", "--no-open", *arguments, folder=self.folder)
            self.assertEqual(done.returncode, 2, done.stderr)
        self.assertEqual(worn("desk", folder=self.folder).returncode, 2)
        self.assertEqual(worn("desk", "none.md", folder=self.folder).returncode, 2)


class People(DeskCase):
    """Names and passwords, a proxy's word, and what a restart keeps."""

    def let_in(self, name: str) -> None:
        """Somebody, by the command."""
        import subprocess
        import sys

        command = [sys.executable, "-m", "wornpage", "desk", "--users", "people.txt", "--let-in", name]
        subprocess.run(command, cwd=self.folder, input="a long secret\n", text=True, check=True, capture_output=True)

    def enter(self, visitor: Visitor, name: str, password: str) -> Any:
        """Say who one is."""
        return visitor.ask("/enter", f"who={name}&password={quote(password)}&to=p/trial/")

    def test_people_log_in(self) -> None:
        self.let_in("ann")
        desk = self.desk("--users", "people.txt")
        visitor = Visitor(desk.address)
        self.assertEqual(visitor.ask("p/trial/").status, 401)
        self.assertIn("not logged in", visitor.wish("trial", {"must": "x"})["why"])
        self.assertEqual(self.enter(visitor, "ann", "a wrong secret").status, 401)
        self.assertEqual(self.enter(visitor, "bo", "a long secret").status, 401)
        answer = self.enter(visitor, "ann", "a long secret")
        self.assertEqual((answer.status, answer.headers["location"]), (303, "./p/trial/"))
        for part in ("HttpOnly", "SameSite=strict"):
            self.assertIn(part, answer.headers["set-cookie"])
        self.assertIn("ann", visitor.ask("p/trial/").text)
        self.assertIn("must X.", re.sub(r"<[^>]+>", "", visitor.report("trial", {"must": "x"})))
        away = visitor.ask("/enter", f"who=ann&password={quote('a long secret')}&to=" + quote("//evil.example/"))
        self.assertNotIn("//evil", away.headers["location"])
        statuses = {self.enter(Visitor(desk.address), "ann", "guess").status for _ in range(12)}
        self.assertIn(429, statuses)

    def test_a_proxy_says_who_it_is(self) -> None:
        desk = self.desk("--named-by", "X-Who", "--proxy", "127.0.0.1")
        self.assertEqual(Visitor(desk.address).ask("p/trial/").status, 403)
        self.assertEqual(
            Visitor(desk.address, X_Who="ann")
            .ask("p/trial/", Origin="https://desk.example", Host="desk.example", X_Forwarded_For="198.51.100.4")
            .status,
            200,
        )
        desk.close()
        other = self.desk("--named-by", "X-Who", "--proxy", "192.0.2.7")
        self.assertEqual(Visitor(other.address, X_Who="ann").ask("p/trial/").status, 403)

    def test_a_restart_keeps_the_line(self) -> None:
        desk = self.desk("--jobs", "1", trial=TRIAL.replace("time: 4s", "time: 60s"))
        visitor = Visitor(desk.address)
        keys = [
            visitor.wish("trial", {"must": must, "wait": wait}, by=must)["key"]
            for must, wait in (("one", 2), ("two", 0))
        ]
        kept = Path(self.folder / ".worn/store/2/desk/line.json")
        self.assertTrue(until(lambda: kept.exists() and len(json.loads(kept.read_text())) == 2))
        desk.close(signal.SIGKILL)
        again = Visitor(self.desk("--jobs", "1", trial=TRIAL.replace("time: 4s", "time: 60s")).address)
        again.cookie = visitor.cookie
        for key, by in zip(keys, ("one", "two"), strict=True):
            self.assertEqual(again.wait("trial", key, by)[-1]["state"], "done")
