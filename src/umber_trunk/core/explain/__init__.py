"""Why a figure is what it is, and the pictures that show it."""
