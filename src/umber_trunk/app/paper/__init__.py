"""Printed pages."""
