"""Where what a page shows comes from: from marks and chunks back to files, libraries, seeds and given values, and the other way."""
