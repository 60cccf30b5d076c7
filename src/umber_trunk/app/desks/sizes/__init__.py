"""Sizes: margins, steps and close looks."""
