"""What every fuse carries, which ratings fit, and where fuses go."""
