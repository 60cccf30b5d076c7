"""The design of one harness as a frozen value; edits are pure functions design → design."""
