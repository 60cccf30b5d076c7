"""Limits, margins, candidates and proposed sizes for a whole harness."""
