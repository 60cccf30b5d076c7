"""Runs: segments and wires that wait."""
