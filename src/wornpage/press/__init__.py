"""Pressing a page: what is ordered, the story of it, and what came of it."""

from wornpage.press.examining import examine, prepare
from wornpage.press.orders import Order, Output, Pressing, PressingFailed, Proof
from wornpage.press.remembering import as_chosen
from wornpage.press.story import composed_for, press, press_order, proof_of

__all__ = [
    "Order", "Output", "Pressing", "PressingFailed", "Proof", "as_chosen", "composed_for", "examine", "prepare", "press", "press_order", "proof_of",
]  # fmt: skip
