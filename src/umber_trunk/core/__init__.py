"""The computation: no Qt, no files, no clock."""
