"""What the technician does, as functions: take in, open a check, take a reading, judge, sign, undo.

Every function takes a session of the caller's transaction and, where time matters, the time: there is no clock here.
"""
