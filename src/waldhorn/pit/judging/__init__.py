"""Judging what is stored: what each motor is judged by is put together here, for a page, the rack and a command alike.

How it is judged is the core's (`core.judging`). `judging` keeps the answers of the rack, `view_cache` what a page has
read. Begin with `judging`."""
