"""Pages of our own making that try to break the law: what they are made of, how they are edited, and trying them."""
