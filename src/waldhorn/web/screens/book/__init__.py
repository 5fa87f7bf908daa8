"""The book of a motor: every check with all that was read in it, and where a reading is put right."""
