"""The desk of the stage Make."""
