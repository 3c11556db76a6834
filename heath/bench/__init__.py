"""The bench: one photograph, its handles and measures, and the instructor's word."""
