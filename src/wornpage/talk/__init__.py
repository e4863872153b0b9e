"""A talk: slides that a speaker shows and an audience follows on screens of their own."""

from wornpage.talk.server import TalkServer

__all__ = ["TalkServer"]
