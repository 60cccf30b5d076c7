"""Proving what was built: what to test in which order, what each reading should be, which fault explains those there
are."""
