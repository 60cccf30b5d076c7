"""What all desks and sheets share."""
