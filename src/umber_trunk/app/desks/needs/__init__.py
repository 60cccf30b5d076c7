"""Needs: loads, supplies, zones, ends and rules."""
