"""Ends: which part on which wire, and whether it fits."""
