"""Pages between a thumbnail and its original: what one more click leads to, and what is never pressed."""

import pytest

from pickcrate.fullsize.onward import Lead, onward
from pickcrate.read.pages.document import read_document

HERE = "https://kites.example/card?n=7"
ON = "https://kites.example/view"

CLICKS = [
    ('<meta http-equiv="Refresh" content="3; URL=\'/view\'">', Lead(ON, delay=3)),
    ('<meta http-equiv=refresh content="0;/view">', Lead(ON)),
    ("<form method=post action=/view><input type=hidden name=n value='7 &amp; 8'><button>Continue</button></form>", Lead(ON, form="n=7+%26+8")),
    ("<form action=/view><input type=hidden name=n value=7><input type=submit name=go value=Enter></form>", Lead(f"{ON}?n=7&go=Enter")),
    ("<form method=post action=/view><label><input type=checkbox name=ok> I agree</label><input type=image alt=View></form>", Lead(ON, form="ok=on")),
    ("<p>The picture is <a href=/view>here: full size</a></p>", Lead(ON, is_larger=True)),
    ("<a href=/view>Weiter</a>", Lead(ON)),
    ("<a href=/view>Original (4000 × 3000)</a>", Lead(ON, is_larger=True)),
    ("<a href=/view>Bild vergrößern</a>", Lead(ON, is_larger=True)),
    ("<a href=/view>Продолжить</a>", Lead(ON)),
    ("<script>setTimeout(function () { location.href = '\\/view'; }, 2500)</script>", Lead(ON, delay=2.5)),
    ("<button onclick=\"document.cookie='seen=1; path=/'; location.reload()\">Yes, I am of age</button>", Lead(HERE, cookies=("seen=1",))),
    ("<a href=# onclick=\"location.replace('/view')\">Show the picture</a>", Lead(ON)),
]  # fmt: skip


@pytest.mark.parametrize(("markup", "step"), CLICKS)
def test_one_more_click(markup: str, step: Lead) -> None:
    page = read_document(markup.encode(), source="x", address=HERE)
    assert onward(page)[0] == step


NEVER = [
    "<form method=post action=/login><input name=user><input type=password name=word><button>Enter</button></form>",
    "<form method=post action=/cart><input type=hidden name=kite value=7><button>Add to cart</button></form>",
    "<form method=post action=https://elsewhere.example/><input type=hidden name=n><button>Continue</button></form>",
    "<form action=/find><input type=search name=q><button>Go</button></form>",
    "<form action=/vote method=post><input type=radio name=stars value=5><button>OK</button></form>",
    "<nav><a href=/view>View all</a></nav><footer><a href=/view>Continue</a></footer>",
    "<a href=/delete>Delete picture</a><a href=/out>Log out</a><a href=mailto:a@kites.example>Show</a>",
    "<p>Nothing to press</p>",
]


@pytest.mark.parametrize("markup", NEVER)
def test_what_is_not_pressed(markup: str) -> None:
    assert onward(read_document(markup.encode(), source="x", address=HERE)) == []


def test_the_response_may_send_on() -> None:
    page = read_document(b"<p>One moment", source="x", address=HERE)
    assert onward(page, "5; url=/view") == [Lead(ON, delay=5)]
