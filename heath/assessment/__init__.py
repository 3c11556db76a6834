"""A piece with its photographs, what people said of it, and how it is measured and scored."""
