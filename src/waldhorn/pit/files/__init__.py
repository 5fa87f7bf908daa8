"""Taking out, and bringing in: chosen files are staged, looked at, mapped where they are foreign, and stored as one
change.

What a file holds is read in `exchange`. Begin with `bringing_in`."""
