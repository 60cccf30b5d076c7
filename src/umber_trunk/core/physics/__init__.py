"""Small pure functions on arrays. Temperatures in °C, lengths in m unless the name says mm."""
