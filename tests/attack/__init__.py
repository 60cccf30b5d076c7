"""Attacks on the program, kept as tests and as commands: ./umber fuzz, ./umber monkey."""
