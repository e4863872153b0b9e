"""Bytes from an editor: whole messages in order, whatever their lengths say and however they come."""

import json
import os
import threading
import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.lsp.wire import Incoming, Outgoing


def message(number: int, text: str = "", length: int | None = None) -> bytes:
    body = json.dumps(
        {"jsonrpc": "2.0", "id": number, "method": "ask", "params": {"text": text}}, ensure_ascii=False
    ).encode()
    return b"Content-Length: %d\r\n\r\n" % (len(body) if length is None else length) + body


def heard(pieces: list[bytes], refused: frozenset[int] = frozenset()) -> tuple[list[tuple[int, str]], list[int]]:
    """Number and text of each message that comes through, and the codes of what was answered at once."""
    reading, writing = os.pipe()

    def send() -> None:
        for piece in pieces:
            os.write(writing, piece)
        os.close(writing)

    def understand(one: dict[str, object]) -> object:
        if one["id"] in refused:
            raise ValueError("no such thing")
        return None

    said: list[bytes] = []
    sender = threading.Thread(target=send)
    sender.start()
    incoming, found = Incoming(reading, Outgoing(said.append), understand), []
    while line := incoming.readline():
        incoming.readline()
        one = json.loads(incoming.read(int(line.split(b":")[1])))
        found.append((one["id"], one["params"]["text"]))
    sender.join()
    os.close(reading)
    return found, [json.loads(part.partition(b"\r\n\r\n")[2])["error"]["code"] for part in said]


class Wire(unittest.TestCase):
    @given(st.lists(st.text(max_size=20), min_size=1, max_size=4), st.lists(st.integers(1, 60), max_size=6))
    def test_messages_come_through_however_they_are_cut(self, texts: list[str], cuts: list[int]) -> None:
        sent = b"".join(message(number, text) for number, text in enumerate(texts))
        pieces, at = [], 0
        for cut in cuts:
            pieces.append(sent[at : at + cut])
            at += cut
        self.assertEqual(heard([*pieces, sent[at:]]), (list(enumerate(texts)), []))

    def test_a_page_may_write_of_heads_of_messages(self) -> None:
        text = "He wrote\r\nContent-Length: 12\r\n\r\n{} and Content-Length: 3"
        sent = message(1, text) + message(2, text)
        half = sent.index(b"12") + 12
        self.assertEqual(heard([sent[:half], sent[half:]]), ([(1, text), (2, text)], []))

    def test_wrong_lengths_cost_no_message_but_their_own(self) -> None:
        for length in (3, 10_000, 999_999_999_999, 0):
            with self.subTest(length):
                found, codes = heard([message(1, "a", length) + message(2, "b") + message(3, "c")])
                self.assertEqual(found[-2:], [(2, "b"), (3, "c")])
                self.assertLessEqual(set(codes), {-32700})

    def test_what_is_no_message_is_passed_over(self) -> None:
        found, codes = heard(
            [
                b"noise\r\n"
                + b"Content-Length: 5\r\n\r\n[1,2]"
                + message(1, "a")
                + b"Content-Length: x\r\n\r\n{"
                + message(2, "b")
            ]
        )
        self.assertEqual(found, [(1, "a"), (2, "b")])
        self.assertEqual(codes, [-32700, -32700])

    def test_what_is_asked_wrongly_is_answered_under_its_number(self) -> None:
        self.assertEqual(heard([message(1) + message(2) + message(3)], frozenset({2})), ([(1, ""), (3, "")], [-32602]))


if __name__ == "__main__":
    unittest.main()
