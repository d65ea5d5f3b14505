"""What headers of columns, and labels, say that stand over the names of things, in the languages of their pages."""

from functools import lru_cache

from pickcrate.text.lazyre import lazy

NAMING = frozenset(
    """
name title label item product kite model species work object titel bezeichnung produkt artikel objekt nom titre produit
nombre título titulo producto obra nome titolo prodotto opera naam namn navn nazwa název название имя 名称 名前 品名
標題 标题 objekttitel objektname objekttitle werktitel tytuł nimi nimike név megnevezés cím denumire titlu заглавие
наименование назва име τίτλος όνομα başlık isim ad adı naziv naslov ime názov nimetus pealkiri nosaukums pavadinimas
タイトル 作品名 作品 題名 商品名 제목 이름 작품명 상품명 名稱 שם כותרת الاسم العنوان عنوان نام tên judul nama
""".casefold().split()
)
_LETTERS = lazy(r"[^\W\d_]+")
_CAPITAL_WITHIN = lazy(r"(?<=[a-z])(?=[A-Z])")
_LONGEST = 100


@lru_cache(maxsize=4_096)
def words_of(header: str) -> frozenset[str]:
    """Return the words of a header or a label, also of one that a program made: ``creditLine``, ``photo_credit``."""
    return frozenset(_LETTERS.findall(_CAPITAL_WITHIN.sub(" ", header[:_LONGEST]).casefold()))


def is_naming(header: str) -> bool:
    """Tell whether a header stands over names, by all of its words: ``Product name``, ``objectTitle``, ``Titel``."""
    words = words_of(header)
    return bool(words) and words <= NAMING
