"""A bound for what a browser is asked to end: one that Ctrl-C has cut off may never answer again."""

import os
import signal
import threading
from collections.abc import Iterator
from contextlib import contextmanager

LONGEST_GOODBYE = 5.0
"""Seconds that a window, or a browser, may take to end; then it is left to the end of the program."""


@contextmanager
def for_no_longer_than(seconds: float) -> Iterator[None]:
    """Raise TimeoutError in what takes longer; in the main thread alone, which is the one that Ctrl-C interrupts.

    It is raised again after as many seconds more: a listener of a page that is being told of something may take the
    first. Windows has no such signal.
    """
    if os.name == "nt" or threading.current_thread() is not threading.main_thread():
        yield
        return
    before = signal.signal(signal.SIGALRM, _give_up)
    signal.setitimer(signal.ITIMER_REAL, seconds, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)


def _give_up(_signal: int, _frame: object) -> None:
    raise TimeoutError
