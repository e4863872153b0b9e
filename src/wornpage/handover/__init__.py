"""Handing a page over: the environment that it needs, proved by making it anew; the page with all it is made of, in one file."""
