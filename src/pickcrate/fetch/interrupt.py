"""Ctrl-C while libcurl works: held until the transfer loop can take it."""

import signal
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from types import FrameType


@contextmanager
def interrupt_between_callbacks() -> Iterator[Callable[[], bool]]:
    """Hold Ctrl-C until the loop asks whether it was pressed: inside a libcurl callback it would be printed and lost.

    A second Ctrl-C is not held. Outside the main thread signals are somebody else's business.
    """
    pressed = False

    def is_pressed() -> bool:
        return pressed

    if threading.current_thread() is not threading.main_thread():
        yield is_pressed
        return

    def note(_number: int, _frame: FrameType | None) -> None:
        nonlocal pressed
        if pressed:
            raise KeyboardInterrupt
        pressed = True

    before = signal.signal(signal.SIGINT, note)
    try:
        yield is_pressed
    finally:
        signal.signal(signal.SIGINT, before)
