"""Return sheets: made, shown, printed, withdrawn."""
