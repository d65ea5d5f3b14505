"""What headers of columns, and labels, say that stand over the names of things, in the languages of their pages."""

from pickcrate.lazyre import lazy

NAMING = frozenset(
    """
name title item product kite model species work object titel bezeichnung produkt artikel objekt nom titre produit
nombre título producto obra nome titolo prodotto naam namn navn nazwa název название имя 名称 名前 品名 標題 标题
""".split()
)
_LETTERS = lazy(r"[^\W\d_]+")
_CAPITAL_WITHIN = lazy(r"(?<=[a-z])(?=[A-Z])")
_LONGEST = 60


def is_naming(header: str) -> bool:
    """Tell whether a header stands over names, by all of its words: ``Product name``, ``objectTitle``, ``Titel``."""
    words = _LETTERS.findall(_CAPITAL_WITHIN.sub(" ", header[:_LONGEST]).lower())
    return bool(words) and NAMING.issuperset(words)
