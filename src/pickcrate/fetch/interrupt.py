"""What asks the program to end: Ctrl-C, a scheduler, a terminal that is closed; while libcurl works, it is held."""

import signal
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from types import FrameType

_ENDING = tuple(
    getattr(signal, name) for name in ("SIGINT", "SIGTERM", "SIGHUP", "SIGBREAK") if hasattr(signal, name)
)  # fmt: skip


def end_in_order() -> None:
    """Let every signal that ends the program raise KeyboardInterrupt with its number, as Ctrl-C does without one.

    What is ignored, as by nohup(1), stays so.
    """
    for number in _ENDING:
        if signal.getsignal(number) is signal.SIG_DFL:
            signal.signal(number, _interrupt)


@contextmanager
def interrupt_between_callbacks() -> Iterator[Callable[[], int]]:
    """Hold such a signal until the loop asks for its number: inside a libcurl callback it would be printed and lost.

    The loop gets 0 where there was none. A second one is not held. Outside the main thread signals are somebody else's
    business, and so are those that would end the program at once.
    """
    held = 0

    def asked() -> int:
        return held

    if threading.current_thread() is not threading.main_thread():
        yield asked
        return

    def note(number: int, frame: FrameType | None) -> None:
        nonlocal held
        if held:
            _interrupt(number, frame)
        held = number

    handled = {number: handler for number in _ENDING if callable(handler := signal.getsignal(number))}
    for number in handled:
        signal.signal(number, note)
    try:
        yield asked
    finally:
        for number, handler in handled.items():
            signal.signal(number, handler)


def _interrupt(number: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt(number)
