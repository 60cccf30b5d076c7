"""Whether a coil is the cable it is sold as."""
