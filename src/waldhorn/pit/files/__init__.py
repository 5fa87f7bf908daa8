"""Taking out, and bringing in: files that were chosen are staged, looked at, mapped where they are foreign, and stored as one act.

What a file holds is read in `exchange`. Begin with `bringing_in`."""
