"""A store that a team shares: what a colleague's page has computed need not be computed again.

Beside the store of a project stands a shelf, a folder or a bucket, with runs of chunks that people have signed. A run is
taken only if one of those whom the user trusts has signed it, if all that it read is the same here, and if having it
takes less time than running it. No shelf ever keeps a page from being pressed.
"""
