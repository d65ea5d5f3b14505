"""How often this process looks for cycles of values that nobody reaches any more."""

import gc


def collect_seldom() -> None:
    """Look for them once in 50,000 new values: for programs whose values live to the end, as those of a page do.

    Once in 700, as it is from the start, an eighth of a large page's time goes into it; no more memory was measured.
    """
    gc.set_threshold(50_000, 20, 50)
