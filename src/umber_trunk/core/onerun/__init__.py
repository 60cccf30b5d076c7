"""One run on its own, the sum done at the bench."""
