"""Ends: whether each wire fits its contact, seal and cavity, and what must be done there in which order."""
