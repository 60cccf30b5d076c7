"""The expected family of errors: a sentence for the user, with where and what to do."""

from __future__ import annotations


class UmberError(Exception):
    """Something the user can mend; its text is shown as it stands."""


class InputError(UmberError):
    """What was typed or passed can't be read; the text says what would be."""


class EditError(UmberError):
    """An edit that can't be made to this design; the design is unchanged."""
