"""Tests."""

import os

from hypothesis import settings

settings.register_profile("worn", deadline=None)  # a law holds or does not, however busy the machine is
settings.load_profile("worn")
os.environ["WORN_WARM"] = "no"  # nothing is kept from one test to the next
