"""Choosing sizes: groups and steps, proposals, least copper, what changes are worth."""
