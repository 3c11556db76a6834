"""Rule sets of a school: read, compared, made one's own, edited."""
