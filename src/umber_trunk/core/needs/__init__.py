"""Loads as people say them."""
