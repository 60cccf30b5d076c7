"""What mends a finding: edits that were tried, and advice for hands."""
