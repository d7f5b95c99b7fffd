"""Memory of the server's process: what the collector looks at, and what goes back to the system."""

import contextlib
import ctypes
import gc

M_MMAP_THRESHOLD, M_ARENA_MAX = -3, -8
"""Names of the settings for `mallopt`. Source: malloc.h of the GNU C library."""
LARGE = 64 * 1024
"""Bytes from which a block, such as an answer, is the system's again as soon as it is free."""


def settle() -> None:
    """Settle what is loaded by now; called once, when the server begins."""
    # What is loaded now stays: the collector need not walk it again at every request.
    gc.collect()
    gc.freeze()
    # An assessment is thousands of small objects without cycles: looking for cycles at each of them costs more than it frees.
    gc.set_threshold(50_000, 20, 20)
    # Each request has a thread of its own. With a heap for each of them too, and answers that leave holes of all sizes in
    # them, memory creeps up though nothing is kept. Other C libraries have no such settings.
    with contextlib.suppress(AttributeError, OSError, TypeError):
        mallopt = ctypes.CDLL(None).mallopt
        mallopt(M_MMAP_THRESHOLD, LARGE)
        mallopt(M_ARENA_MAX, 1)
