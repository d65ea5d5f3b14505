"""Furniture: what dresses a page and what belongs to it, labelled by hand, on layouts of its own and on those of items."""

from base64 import b64encode
from pathlib import Path

import pytest

from conftest import Program, Server, picture
from layouts import LAYOUTS
from pickcrate.sift import seen
from pickcrate.sift.furniture import mark
from pickcrate.values.image import Image
from test_items import images_of

PAGES: dict[str, tuple[str, str, str]] = {
    "div header no tags": (
        """<div id=top><a href="http://galewick.example/"><img src=mark.png></a><div id=tagline>Kites</div></div>
        <div id=content><h1>Kites</h1><img src=a.jpg>
        <p>The keeper told us that the wind had turned in the night. </p><img src=b.jpg></div>""",
        "mark",
        "a b",
    ),
    "logo plain first no link": (
        """<body><img src="kitelogo.gif" alt="Kite museum logo"><h1>Hi</h1><img src=a.jpg>""",
        "kitelogo",
        "a",
    ),
    "what opens in a box on the front page": (
        """<header><a href="./"><img src=mark.png></a></header><h1>Kites</h1><a href="#"><img src=a.jpg></a> <a href="#b"><img src=b.jpg></a>""",
        "mark",
        "a b",
    ),
    "a listing of files": (
        """<h1>Index of /photos</h1><pre><img src=/icons/back.gif alt="[PARENTDIR]"> <a href="/">Parent Directory</a>
<img src=/icons/folder.gif alt="[DIR]"> <a href="2025/">2025/</a>
<img src=/icons/image2.gif alt="[IMG]"> <a href="red.jpg">red.jpg</a>""",
        "back folder image2",
        "red",
    ),
    "icons to take away": (
        """<h1>Icons</h1><div><a href=icon-sun.png download><img src=icon-sun.png width=32 height=32></a>
        <a href=icon-rain.png download><img src=icon-rain.png width=32 height=32></a></div><p><img src=icon-mail.png width=16 height=16>""",
        "icon-mail",
        "icon-sun icon-rain",
    ),
    "where there is no picture": (
        """<h1>Kites</h1><ul><li><a href=red><img src=red.jpg width=300 height=300>Red</a><li><a href=blue><img
        src=no-image-available_300x300.jpg width=300 height=300>Blue</a><li><a href=crow><img src=noimage.png>Crow</a>
        <li><a href=star><img src=missing-star.jpg width=300 height=300>Missing star</a>""",
        "no-image-available_300x300 noimage",
        "red missing-star",
    ),
    "posters for sale, and what users see": (
        """<title>Red poster</title><h1>Red poster</h1><div><img src=red-poster-1.jpg><img src=red-poster-2.jpg></div><dl><dt>Size<dd>A2
        <dt>Paper<dd>Matt</dl><section id=level-two><h2>User profile</h2><img src=view.jpg alt="The profile of a user"></section>
        <div class=by><img class=avatar src=pell.jpg></div>""",
        "pell",
        "red-poster-1 red-poster-2 view",
    ),
    "a pointer of its own": (
        """<style>.reel{cursor:url(grab.cur),auto}</style><h1>Reels</h1><div class=reel><img src=a.jpg></div>""",
        "grab",
        "a",
    ),
    "a formula among the words of a sentence": (
        """<p><font size=2>The line weighs </font><img src=sum.gif width=17 height=18><font size=2>, as any other.</font>
        <p><img src=a.jpg>""",
        "sum",
        "a",
    ),
    "old corners": (
        """<table cellspacing=0><tr><td><img src=tl.gif width=10 height=10></td><td background=top.gif></td><td>
        <img src=tr.gif width=10 height=10></td></tr><tr><td background=l.gif></td><td><h2>Boats</h2>
        <img src=a.jpg width=300 height=200></td><td background=r.gif></td></tr></table>""",
        "tl tr top l r",
        "a",
    ),
    "hr and bullets": (
        """<h1>Notes</h1><img src=bar.gif width=500 height=4><ul><li><img src=ball.gif> One thing</li><li>
        <img src=ball.gif> Two things</li><li><img src=ball.gif> Three</li></ul>
        <img src=bar.gif width=500 height=4><img src=a.jpg width=320 height=240>""",
        "bar ball",
        "a",
    ),
    "new icon bullets": (
        """<ul><li>Thing <img src=new.gif width=28 height=11></li>
        <li>Other <img src=new.gif width=28 height=11></li></ul><img src=a.jpg width=320 height=240>""",
        "new",
        "a",
    ),
    "counter and email": (
        """<h1>Me</h1><img src=me.jpg width=200 height=300><hr><a href="mailto:x@y.example">
        <img src=mail.gif width=40 height=30></a><img src="/cgi-bin/count?page=me" width=80 height=20>
        <a href="http://www.host.example/"><img src=powered.gif width=88 height=31></a>""",
        "mail count powered",
        "me",
    ),
    "forum": (
        """<div class=thread><h1>Knots</h1><div class=post><div class=author>
        <img src=av0.png width=80 height=80 alt=""><b>user0</b><img src=rank0.gif alt=rank></div>
        <div class=body><p>The keeper told us that the wind had turned in the night. </p></div></div>
        <div class=post><div class=author><img src=av1.png width=80 height=80 alt=""><b>user1</b>
        <img src=rank1.gif alt=rank></div><div class=body>
        <p>The keeper told us that the wind had turned in the night. </p>
        <img src=a.jpg width=400 height=300></div></div><div class=post><div class=author>
        <img src=av2.png width=80 height=80 alt=""><b>user2</b><img src=rank0.gif alt=rank></div>
        <div class=body><p>The keeper told us that the wind had turned in the night. </p></div></div>
        <div class=post><div class=author><img src=av3.png width=80 height=80 alt=""><b>user3</b>
        <img src=rank1.gif alt=rank></div><div class=body>
        <p>The keeper told us that the wind had turned in the night. </p></div></div></div>""",
        "av0 av1 av2 av3 rank0 rank1",
        "a",
    ),
    "badges row": (
        """<h1>project</h1><p><a href="https://ci.example/p">
        <img src="https://ci.example/p/badge.svg" alt="build"></a> <a href="https://cover.example/p">
        <img src="https://cover.example/coverage.svg" alt="coverage"></a> <a href="https://licence.example/free">
        <img src="https://img.example/license-free.svg" alt="License: free"></a></p>
        <p>The keeper told us that the wind had turned in the night. </p><img src=shot.png alt="Screenshot">""",
        "badge coverage license-free",
        "shot",
    ),
    "payments not in footer": (
        """<h1>Lamp</h1><img src=a.jpg width=500 height=500><div class=payment-icons><img src=p1.svg alt=Card>
        <img src=p2.svg alt=Coin><img src=p3.svg alt=Bill></div>""",
        "p1 p2 p3",
        "a",
    ),
    "social row": (
        """<div class=follow><a href="https://flock.example/k"><img src=flock.svg alt=Flock></a>
        <a href="https://ring.example/k"><img src=ring.svg alt=Ring></a></div><h1>K</h1><img src=a.jpg>""",
        "flock ring",
        "a",
    ),
    "language flags": (
        """<ul class=lang><li><a href=/en><img src=en.png width=16 height=11 alt=English></a></li><li><a href=/fr>
        <img src=fr.png width=16 height=11 alt=Français></a></li></ul><h1>K</h1><img src=a.jpg>""",
        "en fr",
        "a",
    ),
    "country flags table": (
        """<h2>Countries</h2><table><tr><th>Flag<th>Country<th>Capital<tr><td><img src=x.png width=23 height=15>
        <td>Ebbland<td>Ebb<tr><td><img src=y.png width=23 height=15><td>Flowland<td>Flow</table>""",
        "",
        "x y",
    ),
    "icon list content": (
        """<h2>Tools</h2><ul class=tools><li><img src=hammer-icon.png width=32 height=32><h3>Hammer</h3></li><li>
        <img src=saw-icon.png width=32 height=32><h3>Saw</h3></li></ul>""",
        "",
        "hammer-icon saw-icon",
    ),
    "words in names": (
        """<h2>Coast</h2><div class=g><figure><img src=Easter_Beacon_Light.jpg>
        <figcaption>Easter light</figcaption></figure><figure><img src=loading-barge.jpg>
        <figcaption>The barge</figcaption></figure><figure><img src=blank-postcard.jpg>
        <figcaption>A card</figcaption></figure><figure><img src=star-banner-button.jpg>
        <figcaption>Badge</figcaption></figure></div>""",
        "",
        "Easter_Beacon_Light loading-barge blank-postcard star-banner-button",
    ),
    "thumbs linking": (
        """<h2>Photos</h2><a href=p1.html><img src=t1.jpg width=60 height=60></a><a href=p2.html>
        <img src=t2.jpg width=60 height=60></a><a href=p3.html><img src=t3.jpg width=60 height=60></a>""",
        "",
        "t1 t2 t3",
    ),
    "stars in cards": (
        """<h2>Lamps</h2><div class=c><img src=l0.jpg><h3>Lamp 0</h3><img src=stars.png alt="4 of 5">
        <img src=cart.png alt=Cart></div><div class=c><img src=l1.jpg><h3>Lamp 1</h3>
        <img src=stars.png alt="4 of 5"><img src=cart.png alt=Cart></div><div class=c><img src=l2.jpg>
        <h3>Lamp 2</h3><img src=stars.png alt="4 of 5"><img src=cart.png alt=Cart></div><div class=c>
        <img src=l3.jpg><h3>Lamp 3</h3><img src=stars.png alt="4 of 5"><img src=cart.png alt=Cart></div>""",
        "stars cart",
        "l0 l1 l2 l3",
    ),
    "sprite css": (
        """<style>.i{background:url(sprite.png)}.hero{background:url(hero.jpg)}</style><a class=i></a>
        <a class=i></a><a class=i></a><a class=i></a><a class=i></a><div class=hero><h1>Big</h1></div>""",
        "sprite",
        "hero",
    ),
    "body bg css": (
        """<style>body{background:#fff url(paper.gif)}</style><h1>x</h1><img src=a.jpg width=300 height=300>""",
        "paper",
        "a",
    ),
    "ads": (
        """<a href="https://ads.example/c?1"><img src="https://ads.example/b.gif" width=468 height=60></a>
        <h1>x</h1><img src=a.jpg width=300 height=300>""",
        "b",
        "a",
    ),
    "prev next gifs": (
        """<h1>Ch 2</h1><img src=fig.png width=300 height=200><p><a href=ch1.html>
        <img src=prev.gif alt=Previous></a><a href=toc.html><img src=up.gif alt=Up></a><a href=ch3.html>
        <img src=next.gif alt=Next></a></p>""",
        "prev up next",
        "fig",
    ),
    "panorama": (
        """<h1>x</h1><p><img src=pano.jpg width=900 height=110 alt="The bay from the mill"></p>""",
        "",
        "pano",
    ),
    "article author avatar": (
        """<article><h1>Storm</h1><div class=byline><img class=avatar src=me.jpg width=40 height=40>By Pell</div>
        <img src=a.jpg width=800 height=500>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p></article>""",
        "me",
        "a",
    ),
    "comment avatars": (
        """<h2>Comments</h2><ol><li class=comment><img class=avatar src=c1.jpg width=48 height=48><cite>Pell</cite>
        <p>The keeper told us that the wind had turned in the night. </p></li><li class=comment>
        <img class=avatar src=c2.jpg width=48 height=48><cite>Ino</cite>
        <p>The keeper told us that the wind had turned in the night. </p></li></ol>""",
        "c1 c2",
        "",
    ),
    "team avatars are content": (
        """<h2>Team</h2><div class=team><div class=member><img class=avatar src=m1.jpg width=96 height=96>
        <h3>Pell</h3><p>Guide</p></div><div class=member><img class=avatar src=m2.jpg width=96 height=96>
        <h3>Ino</h3><p>Smith</p></div></div>""",
        "",
        "m1 m2",
    ),
    "svg icons inline": (
        """<button><svg width=16 height=16><path d="M0 0h9"/></svg></button><h1>x</h1><figure>
        <svg width=600 height=400><path d="M0 0h9"/></svg><figcaption>A chart</figcaption></figure>""",
        "",
        "",
    ),
    "licence": (
        """<h1>x</h1><img src=a.jpg><p><a rel=license href="https://licence.example/by"><img src=by.png></a></p>""",
        "by",
        "a",
    ),
    "app badges": (
        """<h1>x</h1><img src=a.jpg width=600 height=400><p><a href="https://store.example/app">
        <img src=store.png width=135 height=40 alt="Get it in the store"></a></p>""",
        "store",
        "a",
    ),
    "sidebar logo old": (
        """<table><tr><td><img src=logo.gif></td><td><h1>Kite club</h1></td></tr></table><p><img src=a.jpg></p>""",
        "logo",
        "a",
    ),
    "footer div sponsors": (
        """<h1>x</h1><img src=a.jpg><div id=footer><a href="https://s1.example"><img src=s1.png></a>
        <a href="https://s2.example"><img src=s2.png></a></div>""",
        "s1 s2",
        "a",
    ),
    "breadcrumb arrows": (
        """<div class=breadcrumb>
        <a href=/>Home</a> <img src=arrow.gif> <a href=/k>Kites</a> <img src=arrow.gif> Delta</div>
        <h1>Delta</h1><img src=a.jpg>""",
        "arrow",
        "a",
    ),
    "a drawing in a style sheet": (
        """<style>.more{background:url("data:image/svg+xml,%3Csvg viewBox='0 0 30 30'%3E%3Cpath d='M4 7h22'/%3E%3C/svg%3E")}</style>
        <div><button class=more>More</button></div><img src=a.jpg>""",
        "svg%3E",
        "a",
    ),
    "arrows to the pages around, in any language; photographs that lead on as well": (
        """<head><link rel=prev href=/2><link rel=next href=/4><link rel=up href=/> </head><h1>Drie</h1><table><tr><td><a href=/2>
        <img src=prev.gif alt=Terug></a><td><a href=/><img src=up.gif alt=Omhoog></a><td><a href=/4><img src=v.gif width=60></a></table>
        <p><a rel=next href=/4><img src=a.jpg></a><a href=/4><img src=b.jpg width=500></a><a href=/5><img src=up-close.jpg></a></p>""",
        "prev up v",
        "a b up-close",
    ),
    "files that are called buttons and icons, and those that are like it": (
        """<h1>Storm</h1><img src=btn_send.gif><img src=checkoutButton.png><img src=i/phone-icon.svg><img src=ajax-loader.gif>
        <img src=blank.gif><img src=default.png><img src=blank-stare.png><img src=smilies/shout.png><img src=/make.aspx id=imgCaptcha>
        <img src=iconic.png><img src=front-loader.png><img src=icon.jpg><img src=red-button.png width=300><img src=buttonhole.png>""",
        "btn_send checkoutButton phone-icon ajax-loader shout make blank",
        "iconic front-loader icon red-button buttonhole blank-stare default",
    ),
    "parts of a program that are called as waiting signs are": (
        """<ul><li><img src=spinner.png><p>Spinner<li><img src=button.png><p>Button<li><img src=entry.png><p>Entry<li><img src=spacer.png><p>Fore</ul>""",
        "spacer",
        "spinner button entry",
    ),
    "what passes the page on": (
        """<ul><li><a href="https://net.example/share?u=https%3A%2F%2Fgalewick.example%2Fkites"><img src=net.png></a>Net
        <li><a href="https://bird.example/?text=Kites&url=https://galewick.example/kites"><img src=bird.png></a>Bird</ul>
        <p><a href="https://shop.example/kite?from=galewick.example"><img src=a.jpg></a>""",
        "net bird",
        "a",
    ),
    "what counts visits": (
        """<h1>Storm</h1><img src=a.jpg><noscript><img src="https://count.example/watch/129"><img src="/visits.php?page=1"><img src="/photo/7">
        <img src="https://k.example/b.jpg"><img src="https://k.example/photo/8" alt="Night Crow"></noscript>""",
        "129 visits",
        "a 7 b 8",
    ),
    "heads: of the site, and of what a page is about": (
        """<div class=site-header><nav><a href=/a>A</a></nav><h1>Guild</h1><img src=sail.jpg width=300></div><img src=a.jpg><img src=b.jpg>""",
        "sail",
        "a b",
    ),
    "a head of what a page is about": (
        """<img src=x.jpg><div class=page-header><h1>Kite of the year</h1><img src=a.jpg width=300></div><img src=b.jpg><img src=c.jpg>""",
        "",
        "x a b c",
    ),
    "signs of notes and warnings": (
        """<div class=note><table><tr><td><img src=note.png alt=[Note]></table></div><div class=admonitionblock><img src=tip.svg></div>
        <p><img src=warning.png></p><div class=note><img src=important.png></div>""",
        "note tip",
        "warning important",
    ),
    "empty drawings where pictures are still to come": (
        """<div class=hero><img src="data:image/svg+xml;charset=utf-8,%3Csvg height='200' width='300'%3E%3C/svg%3E">
        <img src=a.jpg></div><img src="data:image/svg+xml,%3Csvg%3E%3Crect width='9'/%3E%3C/svg id='/drawn.svg'%3E" width=600 height=500>""",
        "svg%3E",
        "a drawn",
    ),
    "a counter at the end": (
        """<h1>Kites</h1><img src=a.jpg><p><img src="/show?kite=red"></p><img src="http://count.example/p?c1=2&c2=19&cv=2.0">""",
        "p",
        "a show",
    ),
    "smileys of an editor": (
        """<h1>Kites</h1><script>var faces = [{"title": "Wind", "image": "/smiles/wind.png"}, {"title": "Rain", "image": "/smiles/rain.png"}];
        var kites = [{"title": "Red", "image": "/kites/red.png"}, {"title": "Blue", "image": "/kites/blue.png"}];</script>""",
        "wind rain",
        "red blue",
    ),
    "what writes, prints, or says where to get something; buttons in a column; the banner that asks for consent": (
        """<table><tr><td><a href=home.html><img src=home.gif width=100 height=25></a><br><a href=a.html>
        <img src=b_kites.gif width=100 height=25></a><br><a href=b.html><img src=b_links.gif width=100 height=25></a></td>
        <td><h1>Kites</h1><img src=a.jpg width=400 height=300><a href="mailto:a@galewick.example"><img src=ink.gif></a>
        <a href="javascript:window.print()"><img src=paper.gif></a>
        <a href="https://apps.example/k"><img src=gplay.png alt="Get it on the shelf"></a></td></tr></table>
        <img src=gonext_prevbtn.png><img src="https://c.example/hit.php?id=3" width=88 height=31>
        <div class=cookie-consent><img src=biscuit.png alt=""><p>We use cookies</p></div>""",
        "home b_kites b_links ink paper gonext_prevbtn gplay hit biscuit",
        "a",
    ),
    "signs of kinds of files, tools of an article, a drawer, and the banner of an old page": (
        """<center><a href=index.html><img src=wide.gif width=600 height=80></a></center><div class=drawer><ul><li>
        <a href=/k><img src=tail.svg alt=""> Kites</a></ul></div><div class=tools><a href=?print=1>
        <img src=printButton.png alt=Print></a><a href=?pdf=1><img src=pdf_button.png alt=PDF></a></div><ul><li>
        <img src=pdf.gif> <a href=a.pdf>Plan</a><li><img src=doc.gif width=16> <a href=b.doc>Form</a></ul>
        <main><h1>Kites</h1><img src=a.jpg width=600></main>""",
        "wide tail printButton pdf_button pdf doc",
        "a",
    ),
    "words for furniture among others, in a hash, in what is said of a picture; who made the page": (
        """<h1>Kites</h1><img src="how-a-wind-counter-works-inside.png" width=70 height=60><img src=682f05ad8b.png width=70 height=60>
        <img src=sign.png width=70 height=60 alt="A radio ad"><img src=hall.png width=70 height=60 alt="The way home from the old mill">
        <img src=main-top-page-header.png width=70 height=60><img src=wind-counter.png width=70 height=60><img src=arrow-left.svg>
        <address>Drawn by <a href="https://made.example/"><img src=made.png width=118 height=55></a> 1.5</address>""",
        "main-top-page-header wind-counter arrow-left made",
        "how-a-wind-counter-works-inside 682f05ad8b sign hall",
    ),
    "who made the page, and people with addresses": (
        """<h1>Keepers</h1><address><img src=ina.jpg> Ina, the mill</address><address><img src=tom.jpg> Tom, the loft</address>""",
        "",
        "ina tom",
    ),
    "a shop's word for a size": (
        """<h1>A kite</h1><img src=hall.jpg width=600 height=400><p>It flies.</p><img src="/19-home_default/kite.jpg" width=60 height=60>
        <a href="/start?from=kite"><img src="/art/home.png" width=60 height=60></a>""",
        "home",
        "kite",
    ),
    "posts in data, by the keys of their pictures": (
        """<div id=app></div><script type="application/json">{"posts": [
        {"caption": "Red delta at dawn", "image_url": "/i/red.jpg", "user": {"name": "Ina", "avatar": {"small": "/u/ina.jpg"}}},
        {"caption": "Blue box", "image_url": "/i/blue.jpg", "author": {"name": "Tom", "picture": {"url": "/u/tom.jpg"}}},
        {"caption": "Green sled", "image_url": "/i/green.jpg", "shop": {"logo": "/l/shop.png"}},
        {"caption": "What Ino flies", "user": {"name": "Ino", "photos": ["/i/one.jpg", "/i/two.jpg"]}}]}</script>""",
        "ina tom shop",
        "red blue green one two",
    ),
    "people in data": (
        """<div id=app></div><script type="application/json">[{"name": "Ina", "avatar": "/u/ina.jpg", "guild": {"logo": "/l/a.png"}},
        {"name": "Tom", "avatar": "/u/tom.jpg", "guild": {"logo": "/l/b.png"}}]</script>""",
        "",
        "ina tom",
    ),
}  # fmt: skip
"""a page, the pictures that dress it, and those that belong to it"""

DRESSING = {
    "logo",
    "menu",
    "btn1",
    "btn2",
    "pay1",
    "pay2",
    "p1",
    "p2",
    "pell",
    "ino",
    "sp",
    "up",
    "red",
    "blue",
    "heart",
}
"""what dresses the layouts of items"""


def marked(markup: str) -> set[str]:
    images = images_of(markup)
    return {
        name.partition("?")[0] for name, image in zip(images, mark(images.values()), strict=True) if image.furniture
    }


@pytest.mark.parametrize("name", PAGES)
def test_what_dresses_a_page(name: str) -> None:
    markup, dressing, belonging = PAGES[name]
    found = marked(markup)
    assert found >= set(dressing.split())
    assert found.isdisjoint(belonging.split())


@pytest.mark.parametrize("name", LAYOUTS)
def test_what_items_are_about_is_no_furniture(name: str) -> None:
    assert marked(LAYOUTS[name][0]) <= DRESSING


def test_where_the_size_decides_it_is_asked_for(run: Program, web: Server) -> None:
    sides = {
        "gap": (1, 1),
        "mark": (20, 20),
        "rule": (600, 4),
        "pier": (900, 400),
        "plan": (300, 200),
        "sail": (60, 60),
        "tide": (60, 60),
    }
    for name, size in sides.items():
        (web.www / f"{name}.png").write_bytes(picture("PNG", size, (size[0] % 200, 9, 9)))
    (web.www / "p.html").write_text(
        "<header><img src=pier.png></header><p><img src=gap.png><img src=mark.png><img src=rule.png><img src=plan.png>"
        "<ul><li><img src=sail.png><h3>Sail</h3><li><img src=tide.png><h3>Tide</h3></ul>"
    )
    line = ("look", f"{web.address}/p.html", "--as-shown", "--no-robots", "--format", "urls", "--furniture", "drop")
    kept = [url.rpartition("/")[2] for url in run(*line).out.split()]
    assert kept == ["pier.png", "plan.png", "sail.png", "tide.png"]
    asked = " ".join(web.requests())
    assert {name for name in sides if name not in asked} == {"sail", "tide"}
    assert len(run(*line, "--unsure", "keep", "--fresh").out.split()) == 6


def test_what_is_at_hand_is_measured_whatever_is_asked_for(run: Program, tmp_path: Path) -> None:
    dot = picture("PNG", (1, 1), "white")
    within = f"data:image/png;base64,{b64encode(dot).decode()}"
    (tmp_path / "dot.png").write_bytes(dot)
    (tmp_path / "red.png").write_bytes(picture("PNG", (300, 200), "red"))
    (tmp_path / "p.html").write_text(
        f"<p>Kites<img src=dot.png><img src='{within}' alt=Gap><img src=red.png><img src=no.png>"
    )
    rows = run("look", "p.html", "--format", "jsonl").rows
    assert [row["width"] for row in rows] == [1, 1, 300, None]
    assert [bool(row["furniture"]) for row in rows] == [True, True, False, False]


def test_a_sign_behind_one_of_several_steps_is_furniture_and_flags_behind_each_are_not(
    run: Program, tmp_path: Path
) -> None:
    names = ("step", "ebb", "flow", "mill")
    for name in names:
        (tmp_path / f"{name}.png").write_bytes(picture("PNG", (8, 30), (len(name), 9, ord(name[0]))))
    style = "".join(f".{name}{{background:url({name}.png)}}" for name in names)
    steps = "<div class=path><ul><li class=step><a href=./>Kites</a><li><a href=reds.html>Reds</a></ul></div>"
    flags = "".join(f"<li class={name}><a href={name}>The {name}</a>" for name in names[1:])
    (tmp_path / "page.html").write_text(f"<style>{style}</style>{steps}<h1>Reds</h1><ol>{flags}</ol>")
    rows = run("look", "page.html", "--all", "--format", "jsonl").rows
    assert {row["name"]: bool(row["furniture"]) for row in rows} == {name: name == "step" for name in names}


def test_many_pictures_of_one_thing_are_each_looked_at_a_few_times(monkeypatch: pytest.MonkeyPatch) -> None:
    looked = 0
    known = seen._sides

    def counted(image: Image) -> list[int]:
        nonlocal looked
        looked += 1
        return known(image)

    monkeypatch.setattr(seen, "_sides", counted)
    pictures = "".join(f"<img src={n}.png width=100 height=80 alt='Night Crow {n}'>" for n in range(300))
    images = list(images_of(f"<h1>Night Crow</h1><dl><dt>Span<dd>80<dt>Wind<dd>3</dl><div>{pictures}</div>").values())
    assert images[0].item.title == "Night Crow"
    mark(images)
    assert looked < 6 * len(images)
