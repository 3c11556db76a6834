"""Stem plan, recipe, conditioning and care of a brief."""
