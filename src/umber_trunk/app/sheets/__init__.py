"""Sheets that open over the window."""
