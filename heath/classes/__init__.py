"""Courses, classes and students."""
