"""A loop of its own for a coroutine: the browser tests may hold one in this thread."""

import asyncio
from concurrent.futures import ThreadPoolExecutor


def in_a_loop(coroutine):
    """Run a coroutine to its end, in a thread that has no loop yet."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, coroutine).result()
