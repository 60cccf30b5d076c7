"""Figures taken where nobody gives one, and the line between kept and broken."""

from __future__ import annotations

USUAL_DROP_PERCENT = 3.0
"""Drop class where nobody has said: that of circuits that matter; the same in a project and for one run."""

AC_OHM_PER_M = 0.08e-3
"""Reactance of one conductor of a cable (IEC 60364-5-52 annex G)."""

MET = 1 + 1e-6
"""A limit used up to here is met: a millionth for rounding, the same everywhere."""
