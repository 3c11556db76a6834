"""The shell of every page: layout, components, style, scripts, and how answers are made."""
