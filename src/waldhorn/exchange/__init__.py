"""Open formats in and out: CSV tables, the JSON backup, the data package, the judgement as JSON."""
