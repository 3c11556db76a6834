"""Photographs as they come in: dropped, by a student's link, sorted, given to a piece."""
