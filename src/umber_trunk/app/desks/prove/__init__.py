"""The desk Prove."""
