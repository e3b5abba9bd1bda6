"""Facts as CSV and their one loader."""
