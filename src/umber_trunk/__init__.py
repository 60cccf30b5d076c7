"""Umber Trunk: thinks a wiring harness through with its builder."""

import os

__version__ = "0.2.0"

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
"""Before NumPy loads: its matrices here are small, and on a busy machine threads that wait for one another take longer
than the work."""
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
"""Before pydantic loads: it would read what every installed package declares, to find plugins nobody has put there."""
