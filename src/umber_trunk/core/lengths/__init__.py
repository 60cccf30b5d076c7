"""From measured segments to lengths, and listed wires laid onto a trunk."""
