"""Umber Trunk: thinks a wiring harness through with its builder."""

__version__ = "0.1.0"
