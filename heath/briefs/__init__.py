"""Briefs: what a class is asked to make, the page of its pieces, release of marks."""
