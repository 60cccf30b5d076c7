"""The project file and the open formats in and out. No Qt."""
