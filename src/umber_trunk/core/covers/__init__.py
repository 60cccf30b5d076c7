"""Coverings: what passes over what, what grips, how much to cut."""
