"""What all outputs that are slides share: how a page is cut into slides, what comes in which step, and whether it fits."""
