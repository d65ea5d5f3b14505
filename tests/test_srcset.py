"""srcset by the HTML standard, 4.8.4.3.9; and what a page's markup makes of it."""

import pytest

from pickcrate.finders.srcset import parse_srcset

CASES: list[tuple[str, list[tuple[str, int | None, float | None]]]] = [
    ("", []),
    (" , ,, ", []),
    ("a.jpg", [("a.jpg", None, None)]),
    ("a.jpg, b.jpg 2x", [("a.jpg", None, None), ("b.jpg", None, 2.0)]),
    ("a.jpg 100w,b.jpg 200w", [("a.jpg", 100, None), ("b.jpg", 200, None)]),
    ("a.jpg,b.jpg 2x", [("a.jpg,b.jpg", None, 2.0)]),  # a comma inside an address needs a space behind it to split
    ("a,b.jpg,, c.jpg", [("a,b.jpg", None, None), ("c.jpg", None, None)]),
    ("/w=100,h=50/a.jpg 1x, /w=200,h=100/a.jpg 2x", [("/w=100,h=50/a.jpg", None, 1.0), ("/w=200,h=100/a.jpg", None, 2.0)]),
    ("data:,a ( , data:,b 1x, ), data:,c", [("data:,c", None, None)]),  # web-platform test: commas in brackets
    ("a.jpg 1.5x", [("a.jpg", None, 1.5)]),
    ("a.jpg 1e1x", [("a.jpg", None, 10.0)]),
    ("a.jpg +1x", []),
    ("a.jpg 1.x", []),
    ("a.jpg -1x", []),
    ("a.jpg 0w", []),
    ("a.jpg 100w 2x", []),
    ("a.jpg 100w 50h", [("a.jpg", 100, None)]),
    ("a.jpg 50h", []),
    ("a.jpg 100w foo, b.jpg 300w", [("b.jpg", 300, None)]),
    ("\n\ta.jpg\n100w\n,\nb.jpg\f2x\n", [("a.jpg", 100, None), ("b.jpg", None, 2.0)]),
]  # fmt: skip


@pytest.mark.parametrize(("value", "expected"), CASES)
def test_parse_srcset(value: str, expected: list[tuple[str, int | None, float | None]]) -> None:
    assert [(c.url, c.width, c.density) for c in parse_srcset(value)] == expected
