"""The version of Worn Page."""

VERSION = "0.1.0"
