"""The line-up: all pieces of a brief on one rim line."""
