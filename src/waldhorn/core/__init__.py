"""The computation: pure functions over plain values. No web, no database, no clock, no files.

Its rooms, from what knows most to what knows least: `predicting`, `comparing`, `judging`, `rigs`, `measuring`,
`motors`, `base`; nothing below knows what is above it. Begin with `judging.verdict`: it is what all others are for.
"""
