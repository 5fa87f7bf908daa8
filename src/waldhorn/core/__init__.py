"""The computation: pure functions over plain values. No web, no database, no clock, no files."""
