"""A school's containers and materials."""
