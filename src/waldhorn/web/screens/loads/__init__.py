"""Motors under load, side by side: the sheet, its chart, and both as files."""
