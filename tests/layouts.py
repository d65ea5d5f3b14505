"""Golden layouts: what a person calls what each picture shows, where its page is, what is said of it, and the section."""

from dataclasses import dataclass, field

HOME = "https://galewick.example/kites/"
ANY = "*"
"""a heading that a person could not tell"""


@dataclass(frozen=True, slots=True)
class Seen:
    """What a person sees of one picture; its key in a layout is its file's name."""

    item: str = ""
    heading: str = ""
    url: str = ""
    columns: dict[str, str] = field(default_factory=dict)


LAYOUTS: dict[str, tuple[str, dict[str, Seen]]] = {
    "cards, the title below the picture": (
        """<h1>Shop</h1><h2>New this week</h2><div class=grid><div class=card><a href=delta>
        <img src=a.jpg alt=""></a><h3><a href=delta>Red Delta</a></h3><p>12 crowns</p><button>Buy</button></div>
        <div class=card><a href=box><img src=b.jpg alt=""></a><h3><a href=box>Surveyor's Box</a></h3>
        <p>14 crowns</p><button>Buy</button></div><div class=card><a href=star><img src=c.jpg alt=""></a><h3>
        <a href=star>Evening Star</a></h3><p>9 crowns</p><button>Buy</button></div></div>""",
        {"a": Seen("Red Delta", "New this week", "delta"), "b": Seen("Surveyor's Box", "New this week", "box"),
         "c": Seen("Evening Star", "New this week", "star")},
    ),
    "cards that are one link, the price first": (
        """<h2>Paper goods</h2><ul><li><a href=lantern><span>€ 4.50</span><img src=a.jpg>
        <span>Paper lantern, red</span></a><li><a href=fan><span>€ 3.00</span><img src=b.jpg>
        <span>Fan</span></a></ul>""",
        {"a": Seen("Paper lantern, red", "Paper goods", "lantern"), "b": Seen("Fan", "Paper goods", "fan")},
    ),
    "rows of a table with heads": (
        """<h2>The makers</h2><table><caption>Guilds of the coast</caption><tr>
        <th>Emblem<th>Guild<th>Founded<th>Town<tr><td><img src=a.png width=23><th scope=row>Birch<td>1811<td>Ebb<tr>
        <td><img src=b.png width=23><th scope=row>Hazel<td>1840<td>Flow</table>""",
        {"a": Seen("Birch", "The makers", "", {"Guild": "Birch", "Founded": "1811", "Town": "Ebb"}),
         "b": Seen("Hazel", "The makers", "", {"Guild": "Hazel", "Founded": "1840", "Town": "Flow"})},
    ),
    "a table whose heads are only bold cells, names linked": (
        """<table><tr><td><b>No.</b><td><b>Kite</b><td><b>Picture</b><td><b>Maker</b><tr><td>1<td>
        <a href=k1>Night Crow</a><td><a href=k1><img src=a.gif></a><td>Pell Arbuthnot<tr><td>2<td>
        <a href=k2>Mill Wheel</a><td><a href=k2><img src=b.gif></a><td>Ino Hallas</table>""",
        {"a": Seen("Night Crow", "", "k1", {"No.": "1", "Kite": "Night Crow", "Maker": "Pell Arbuthnot"}),
         "b": Seen("Mill Wheel", "", "k2", {"No.": "2", "Kite": "Mill Wheel", "Maker": "Ino Hallas"})},
    ),
    "a table with spans: a shared first head, two rows of heads": (
        """<table><thead><tr><th rowspan=2>Wing<th rowspan=2>Kite<th rowspan=2>Picture<th colspan=2>Size<tr>
        <th>Width<th>Height</thead><tr><th rowspan=2>North<td>Sled<td><img src=a.jpg><td>80<td>60<tr><td>Ladder<td>
        <img src=b.jpg><td>40<td>200</table>""",
        {"a": Seen("Sled", "", "", {"Wing": "North", "Kite": "Sled", "Width": "80", "Height": "60"}),
         "b": Seen("Ladder", "", "", {"Wing": "North", "Kite": "Ladder", "Width": "40", "Height": "200"})},
    ),
    "things side by side in the columns of a table": (
        """<table><tr><th>Kite<th>Foil<th>Diamond<th>Crow<tr><th>Picture<td><img src=a.jpg><td><img src=b.jpg><td>
        <img src=c.jpg><tr><th>Wind<td>3<td>4<td>2<tr><th>Price<td>30<td>12<td>18</table>""",
        {"a": Seen("Foil", "", "", {"Kite": "Foil", "Wind": "3", "Price": "30"}),
         "b": Seen("Diamond", "", "", {"Kite": "Diamond", "Wind": "4", "Price": "12"}),
         "c": Seen("Crow", "", "", {"Kite": "Crow", "Wind": "2", "Price": "18"})},
    ),
    "a layout table: cells with a picture and words": (
        """<h1>Old pages</h1><table border=0><tr><td align=center><a href=1.html><img src=a.gif></a>
        <br>Kite one<td align=center><a href=2.html><img src=b.gif></a><br>Kite two<tr><td align=center>
        <a href=3.html><img src=c.gif></a><br>Kite three<td></table>""",
        {"a": Seen("Kite one", "Old pages", "1.html"), "b": Seen("Kite two", "Old pages", "2.html"),
         "c": Seen("Kite three", "Old pages", "3.html")},
    ),
    "a layout table: a row of pictures above a row of captions, inside another": (
        """<table><tr><td><img src=menu.gif width=90 height=20><td><table><tr><td><img src=a.gif><td><img src=b.gif>
        <tr><td>Sled<td>Foil<tr><td><img src=c.gif><td><img src=d.gif><tr><td>Star<td>Sun</table></table>""",
        {"a": Seen("Sled"), "b": Seen("Foil"), "c": Seen("Star"), "d": Seen("Sun"), "menu": Seen()},
    ),
    "a list of terms": (
        """<h2>Knots</h2><dl><dt>Bowline<dd><img src=a.png> Holds the bridle.<dt>Lark's head<dd>
        <img src=b.png> Ties the line.</dl>""",
        {"a": Seen("Bowline", "Knots"), "b": Seen("Lark's head", "Knots")},
    ),
    "figures in a gallery": (
        """<h2>Storm</h2><div><figure><img src=a.jpg alt="a kite"><figcaption>The roof</figcaption></figure><figure>
        <img src=b.jpg alt="a kite"><figcaption>The <b>gate</b></figcaption></figure></div>""",
        {"a": Seen("The roof", "Storm"), "b": Seen("The gate", "Storm")},
    ),
    "an article with pictures in its text": (
        """<article><h1>A day of wind</h1><p>It blew from the sea all day. It blew from the sea all day. It blew from the sea all day. It blew from the sea all day. It blew from the sea all day. It blew from the sea all day. It blew from the sea all day. It blew from the sea all day. It blew from the sea all day. </p><figure><img src=a.jpg><figcaption>The beach at noon</figcaption></figure>
        <p>We flew what would fly at all. We flew what would fly at all. We flew what would fly at all. We flew what would fly at all. We flew what would fly at all. We flew what would fly at all. We flew what would fly at all. We flew what would fly at all. We flew what would fly at all. </p><h2>Evening</h2><p>Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. Then it fell still. </p><p><img src=b.jpg></p><p>And we went home. And we went home. And we went home. And we went home. And we went home. And we went home. And we went home. And we went home. And we went home. </p></article>""",
        {"a": Seen("", "A day of wind"), "b": Seen("", "Evening")},
    ),
    "runs of picture, text and line break": (
        """<center><img src=a.gif> Red sail<br><img src=b.gif> Blue sail<br><img src=c.gif> Green sail<br></center>""",
        {"a": Seen("Red sail"), "b": Seen("Blue sail"), "c": Seen("Green sail")},
    ),
    "headings and pictures side by side in one block": (
        """<h1>Festival</h1><div><h3>Saturday</h3><img src=a.jpg><p>Wind from the west.</p><h3>Sunday</h3>
        <img src=b.jpg><p>No wind.</p><h3>Monday</h3><img src=c.jpg><p>Rain.</p></div>""",
        {"a": Seen("Saturday", "Festival"), "b": Seen("Sunday", "Festival"), "c": Seen("Monday", "Festival")},
    ),
    "tiles with backgrounds and words on top": (
        """<h2>Rooms</h2><div class=wall><a class=tile href=attic style="background-image:url(a.jpg)">
        <span class=label>The attic</span></a><a class=tile href=cellar style="background-image:url(b.jpg)">
        <span class=label>The cellar</span></a></div>""",
        {"a": Seen("The attic", "Rooms", "attic"), "b": Seen("The cellar", "Rooms", "cellar")},
    ),
    "a carousel with cloned slides": (
        """<div class=track><div class="slide clone"><img src=b.jpg><p>Long Dragon</p></div>
        <div class="slide active"><img src=a.jpg><p>Octopus</p></div><div class=slide><img src=b.jpg>
        <p>Long Dragon</p></div><div class="slide clone"><img src=a.jpg><p>Octopus</p></div></div>""",
        {"a": Seen("Octopus"), "b": Seen("Long Dragon")},
    ),
    "two pictures in one card, and an avatar beside the picture": (
        """<h2>Flown today</h2><div class=post><div class=by><img class=avatar src=pell.jpg width=32>
        <b>Pell</b></div><h3>Crow at dusk</h3><div class=pics><img src=a.jpg><img src=b.jpg></div></div>
        <div class=post><div class=by><img class=avatar src=ino.jpg width=32><b>Ino</b></div><h3>Wheel at dawn</h3>
        <div class=pics><img src=c.jpg><img src=d.jpg></div></div>""",
        {"a": Seen("Crow at dusk", "Flown today"), "b": Seen("Crow at dusk", "Flown today"),
         "c": Seen("Wheel at dawn", "Flown today"), "d": Seen("Wheel at dawn", "Flown today"),
         "pell": Seen("Crow at dusk", "Flown today"), "ino": Seen("Wheel at dawn", "Flown today")},
    ),
    "people of a team, with label and value lines": (
        """<h2>Keepers</h2><div class=team><div class=person><img src=a.jpg><h4>Ysolde Marrow</h4><p>
        <b>Room:</b> Attic</p><p>Since: 1998</p></div><div class=person><img src=b.jpg><h4>Dag Winterbourne</h4><p>
        <b>Room:</b> Cellar</p><p>Since: 2004</p></div></div>""",
        {"a": Seen("Ysolde Marrow", "Keepers", "", {"Room": "Attic", "Since": "1998"}),
         "b": Seen("Dag Winterbourne", "Keepers", "", {"Room": "Cellar", "Since": "2004"})},
    ),
    "microdata": (
        """<section><h2>Prints</h2><div itemscope itemtype="https://schema.org/Product">
        <img itemprop=image src=a.jpg><a itemprop=url href=p1><span itemprop=name>Print of a sled</span></a>
        <span itemprop=sku>G-1</span><p>Buy it now</p></div><div itemscope itemtype="https://schema.org/Product">
        <img itemprop=image src=b.jpg><a itemprop=url href=p2><span itemprop=name>Print of a foil</span></a>
        <span itemprop=sku>G-2</span></div></section>""",
        {"a": Seen("Print of a sled", "Prints", "p1", {"sku": "G-1"}),
         "b": Seen("Print of a foil", "Prints", "p2", {"sku": "G-2"})},
    ),
    "microformats": (
        """<div class=h-feed><article class=h-entry><p>Friday</p><img class=u-photo src=a.jpg>
        <a class="p-name u-url" href=e1>Lines untangled</a></article><article class=h-entry><p>Monday</p>
        <img class=u-photo src=b.jpg><a class="p-name u-url" href=e2>Lines tangled</a></article></div>""",
        {"a": Seen("Lines untangled", "", "e1"), "b": Seen("Lines tangled", "", "e2")},
    ),
    "JSON-LD, matched by address": (
        """<script type="application/ld+json">{"@graph": [{"@type": "Product", "name": "Wind sock", "url": "sock", "image": "a.jpg", "sku": "S1"},
        {"@type": "Product", "name": "Wind spinner", "url": "spinner", "image": ["b.jpg"], "sku": "S2"}]}</script><p><img src=a.jpg></p><div><img src=b.jpg></div>""",
        {"a": Seen("Wind sock", "", "sock", {"sku": "S1"}),
         "b": Seen("Wind spinner", "", "spinner", {"sku": "S2"})},
    ),
    "a page about one thing, related things beside it": (
        """<header><img src=logo.png></header><main><h1>Evening Star</h1><div class=gallery><img src=a.jpg>
        <img src=b.jpg><img src=c.jpg></div><dl><dt>Maker<dd>Pell Arbuthnot<dt>Year<dd>1977</dl>
        <p>A six-pointed star.</p></main><aside><h2>More like it</h2><ul><li><a href=sun>
        <img src=d.jpg>Six Corner Sun</a><li><a href=moon><img src=e.jpg>Half Moon</a></ul></aside>""",
        {"a": Seen("Evening Star", "Evening Star", "", {"Maker": "Pell Arbuthnot", "Year": "1977"}),
         "b": Seen("Evening Star", "Evening Star", "", {"Maker": "Pell Arbuthnot", "Year": "1977"}),
         "c": Seen("Evening Star", "Evening Star", "", {"Maker": "Pell Arbuthnot", "Year": "1977"}),
         "d": Seen("Six Corner Sun", "More like it", "sun"), "e": Seen("Half Moon", "More like it", "moon"),
         "logo": Seen()},
    ),
    "rows and cells by role": (
        """<div role=table aria-label="Loans"><div role=row><div role=columnheader>Picture</div>
        <div role=columnheader>Kite</div><div role=columnheader>Lender</div></div><div role=row><div role=cell>
        <img src=a.jpg></div><div role=rowheader>Grey Octopus</div><div role=cell>Ebb Hall</div></div><div role=row>
        <div role=cell><img src=b.jpg></div><div role=rowheader>Pale Sled</div>
        <div role=cell>Flow Hall</div></div></div>""",
        {"a": Seen("Grey Octopus", "", "", {"Kite": "Grey Octopus", "Lender": "Ebb Hall"}),
         "b": Seen("Pale Sled", "", "", {"Kite": "Pale Sled", "Lender": "Flow Hall"})},
    ),
    "entries of a blog": (
        """<main><h1>News</h1><article><img src=a.jpg><time>3 May 2025</time><h2><a href=n1>Roof mended</a></h2>
        <p>It took the whole spring, and no rain came in since.</p><a href=n1>Read more</a></article><article>
        <img src=b.jpg><time>1 May 2025</time><h2><a href=n2>Door painted</a></h2>
        <p>Blue, as it was before the storm.</p><a href=n2>Read more</a></article></main>""",
        {"a": Seen("Roof mended", "News", "n1"), "b": Seen("Door painted", "News", "n2")},
    ),
    "columns in rows, the last row short": (
        """<h2>Loft</h2><div class=row><div class=col><img src=a.jpg><p><strong>Spool</strong></p></div>
        <div class=col><img src=b.jpg><p><strong>Winder</strong></p></div></div><div class=row><div class=col>
        <img src=c.jpg><p><strong>Peg</strong></p></div></div>""",
        {"a": Seen("Spool", "Loft"), "b": Seen("Winder", "Loft"), "c": Seen("Peg", "Loft")},
    ),
    "a picture to each block of words, in two sections": (
        """<section><h2>Reds</h2><div><div class=pic><img src=a.jpg></div><div class=words>Red sled</div>
        <div class=pic><img src=b.jpg></div><div class=words>Red foil</div></div></section><section><h2>Blues</h2>
        <div><div class=pic><img src=c.jpg></div><div class=words>Blue sled</div><div class=pic>
        <img src=d.jpg></div><div class=words>Blue foil</div></div></section>""",
        {"a": Seen("Red sled", "Reds"), "b": Seen("Red foil", "Reds"), "c": Seen("Blue sled", "Blues"),
         "d": Seen("Blue foil", "Blues")},
    ),
    "shop cards realistic": (
        """<header class="site-header"><a href="/"><img src=logo.png alt="Galewick Kite Museum"></a><nav><ul><li>
        <a href=/shop>Shop</a><li><a href=/about>About</a></ul></nav></header><main><h1>Lanterns</h1>
        <p class=intro>Hand-folded in our workshop.</p><section class="product-grid"><article class="product-card">
        <div class="product-card__media"><a href="/p/1">
        <img class="product-card__img" src="a.jpg" alt="lantern"></a><span class="badge">New</span></div>
        <div class="product-card__body"><p class="product-card__price">€12.50</p><h3 class="product-card__title">
        <a href="/p/1">Paper lantern, red</a></h3><p>In stock</p>
        <button class="btn">Add to cart</button></div></article><article class="product-card">
        <div class="product-card__media"><a href="/p/2">
        <img class="product-card__img" src="b.jpg" alt="lantern"></a></div><div class="product-card__body">
        <p class="product-card__price">€9.00</p><h3 class="product-card__title">
        <a href="/p/2">Paper lantern, blue</a></h3><button class="btn">Add to cart</button></div></article>
        <article class="product-card"><div class="product-card__media"><a href="/p/3">
        <img class="product-card__img" src="c.jpg" alt="lantern"></a></div><div class="product-card__body">
        <p class="product-card__price">€19.00</p><h3 class="product-card__title">
        <a href="/p/3">Floor lantern</a></h3>
        <button class="btn">Add to cart</button></div></article></section></main><footer>
        <p>© 2026 Galewick Kite Museum</p><img src=pay1.png alt="A card"><img src=pay2.png alt="A coin"></footer>""",
        {"a": Seen("Paper lantern, red", "Lanterns", "https://galewick.example/p/1"),
         "b": Seen("Paper lantern, blue", "Lanterns", "https://galewick.example/p/2"),
         "c": Seen("Floor lantern", "Lanterns", "https://galewick.example/p/3"), "logo": Seen("", ANY),
         "pay1": Seen("", ANY)},
    ),
    "cards without headings, title bold below": (
        """<h2>Seeds</h2><div class="cards"><div class="card"><img src="a.jpg"><div class="card-body">
        <strong>Birch</strong><span class="price">3.20 €</span><a class="btn" href="/birch">Details</a></div></div>
        <div class="card"><img src="b.jpg"><div class="card-body"><strong>Alder</strong>
        <span class="price">2.80 €</span><a class="btn" href="/alder">Details</a></div></div></div>""",
        {"a": Seen("Birch", "Seeds", "https://galewick.example/birch"),
         "b": Seen("Alder", "Seeds", "https://galewick.example/alder")},
    ),
    "cards with plain div title": (
        """<h2>Seeds</h2><div class="cards"><div class="card"><img src="a.jpg"><div class="t">Birch seed, 50 g</div>
        <div class="pr">3.20 €</div></div><div class="card"><img src="b.jpg"><div class="t">Alder seed, 50 g</div>
        <div class="pr">2.80 €</div></div><div class="card"><img src="c.jpg"><div class="t">Oak seed, 50 g</div>
        <div class="pr">4.80 €</div></div></div>""",
        {"a": Seen("Birch seed, 50 g", "Seeds"), "b": Seen("Alder seed, 50 g", "Seeds"),
         "c": Seen("Oak seed, 50 g", "Seeds")},
    ),
    "overlay tiles": (
        """<h1>Destinations</h1><div class="tiles"><a class="tile" href="/north"><img src="a.jpg" alt="">
        <div class="overlay"><h3>North Shore</h3><p>12 walks</p></div></a><a class="tile" href="/south">
        <img src="b.jpg" alt=""><div class="overlay"><h3>South Bay</h3><p>8 walks</p></div></a></div>""",
        {"a": Seen("North Shore", "Destinations", "https://galewick.example/north"),
         "b": Seen("South Bay", "Destinations", "https://galewick.example/south")},
    ),
    "search results": (
        """<h1>Results for “kite”</h1><div id="results"><div class="result"><a href="/k/1">
        <img src="a.jpg" width=80></a><div>
        <a class="result-link" href="/k/1">Red Delta at the North Shore</a>
        <p>A broad red kite with a cream keel, flown in 1962 by Ysolde Marrow and since then every year at the festival.</p>
        <span class="date">3 March 2024</span></div></div><div class="result"><a href="/k/2">
        <img src="b.jpg" width=80></a><div>
        <a class="result-link" href="/k/2">Night Crow over the harbour</a>
        <p>A crow kite against an orange sky.</p><span class="date">4 March 2024</span></div></div></div>""",
        {"a": Seen("Red Delta at the North Shore", "Results for “kite”", "https://galewick.example/k/1"),
         "b": Seen("Night Crow over the harbour", "Results for “kite”", "https://galewick.example/k/2")},
    ),
    "team": (
        """<h1>Our people</h1><h2>Keepers</h2><ul class="people"><li><img src="a.jpg" alt="portrait">
        <p class="name">Ysolde Marrow</p><p class="role">Head keeper</p><a href="mailto:y@x.example">E-mail</a></li>
        <li><img src="b.jpg" alt="portrait"><p class="name">Dag Winterbourne</p>
        <p class="role">Keeper of foils</p></li></ul><h2>Volunteers</h2><ul class="people"><li>
        <img src="c.jpg" alt="portrait"><p class="name">Ino Hallas</p><p class="role">Guide</p></li></ul>""",
        {"a": Seen("Ysolde Marrow", "Keepers"), "b": Seen("Dag Winterbourne", "Keepers"),
         "c": Seen("Ino Hallas", "Volunteers")},
    ),
    "guild table emblem middle": (
        """<h2>Guilds</h2><table class="wikitable"><caption>Guilds of the coast</caption><thead><tr><th>No.</th>
        <th>Guild</th><th>Emblem</th><th>Members</th></tr></thead><tbody><tr><td>1</td><td>Birch</td><td>
        <img src="a.png" width="23" height="15"></td><td>120</td></tr><tr><td>2</td><td>
        <a href="/hazel">Hazel</a></td><td><img src="b.png" width="23" height="15"></td>
        <td>80</td></tr></tbody></table>""",
        {"a": Seen("Birch", "Guilds", "", {"No.": "1", "Guild": "Birch", "Members": "120"}),
         "b": Seen("Hazel", "Guilds", "https://galewick.example/hazel", {"No.": "2", "Guild": "Hazel", "Members": "80"})},
    ),
    "emblem inside the name cell": (
        """<h2>Guilds</h2><table><tr><th>Guild</th><th>Town</th></tr><tr><td>
        <img src="a.png" width="23"> <a href="/birch">Birch</a></td><td>Ebb</td></tr><tr><td>
        <img src="b.png" width="23"> <a href="/hazel">Hazel</a></td><td>Flow</td></tr></table>""",
        {"a": Seen("Birch", "Guilds", "https://galewick.example/birch", {"Guild": "Birch", "Town": "Ebb"}),
         "b": Seen("Hazel", "Guilds", "https://galewick.example/hazel", {"Guild": "Hazel", "Town": "Flow"})},
    ),
    "rowspan picture": (
        """<table><tr><th>Photo</th><th>Kite</th><th>Year</th></tr><tr><td rowspan=2><img src=a.jpg></td>
        <td>Red Delta</td><td>1962</td></tr><tr><td>Small Delta</td><td>1963</td></tr><tr><td><img src=b.jpg></td>
        <td>Crow</td><td>1981</td></tr></table>""",
        {"a": Seen("Red Delta", "", "", {"Kite": "Red Delta", "Year": "1962"}),
         "b": Seen("Crow", "", "", {"Kite": "Crow", "Year": "1981"})},
    ),
    "two tables": (
        """<h2>Reds</h2><table><tr><th>Pic<th>Name<tr><td><img src=a.jpg><td>Sled<tr><td><img src=b.jpg>
        <td>Foil</table><h2>Blues</h2><table><tr><th>Pic<th>Name<tr><td><img src=c.jpg><td>Star<tr><td>
        <img src=d.jpg><td>Sun</table>""",
        {"a": Seen("Sled", "Reds", "", {"Name": "Sled"}), "c": Seen("Star", "Blues", "", {"Name": "Star"}),
         "d": Seen("Sun", "Blues", "", {"Name": "Sun"})},
    ),
    "layout grid": (
        """<center><h1>Welcome to my kites</h1></center><table border=0 cellpadding=5><tr><td><a href="k1.html">
        <img src="a.gif" border=0></a></td><td><a href="k2.html"><img src="b.gif" border=0></a></td><td>
        <a href="k3.html"><img src="c.gif" border=0></a></td></tr><tr><td><font size=2>Red sled</font></td><td>
        <font size=2>Blue sled</font></td><td><font size=2>Old box</font></td></tr></table>""",
        {"a": Seen("Red sled", "Welcome to my kites", "k1.html"),
         "b": Seen("Blue sled", "Welcome to my kites", "k2.html"),
         "c": Seen("Old box", "Welcome to my kites", "k3.html")},
    ),
    "cell per item with b and br": (
        """<table width=100%><tr valign=top><td><img src=a.gif><br><b>Red sled</b><br>1931, paper</td><td>
        <img src=b.gif><br><b>Blue sled</b><br>1940, silk</td></tr></table>""",
        {"a": Seen("Red sled", ANY), "b": Seen("Blue sled", ANY)},
    ),
    "table per item": (
        """<h2>Stock</h2><table class=item><tr><td><img src=a.gif></td><td><b>Red sled</b>
        <br>A fine sled.</td></tr></table><table class=item><tr><td><img src=b.gif></td><td><b>Blue sled</b>
        <br>Another.</td></tr></table>""",
        {"a": Seen("Red sled", "Stock"), "b": Seen("Blue sled", "Stock")},
    ),
    "zigzag table": (
        """<table><tr><td><img src=a.jpg></td><td><b>The attic</b><br>Where it began.</td></tr><tr><td>
        <b>The cellar</b><br>Where it ended.</td><td><img src=b.jpg></td></tr><tr><td><img src=c.jpg></td><td>
        <b>The yard</b><br>Wind.</td></tr></table>""",
        {"a": Seen("The attic", ANY), "b": Seen("The cellar", ANY), "c": Seen("The yard", ANY)},
    ),
    "nested layout with sidebar": (
        """<table width=800><tr><td width=150 bgcolor=#eee><a href=home.html>
        <img src=btn1.gif width=120 height=30 alt=Home></a><br><a href=x.html>
        <img src=btn2.gif width=120 height=30 alt=Kites></a></td><td><h2>Kites</h2><table><tr><td><img src=a.jpg>
        <p>Sled of 1931</p></td><td><img src=b.jpg><p>Foil of 1994</p></td></tr><tr><td><img src=c.jpg>
        <p>Star of 1977</p></td><td><img src=d.jpg><p>Crow of 1981</p></td></tr></table></td></tr></table>""",
        {"a": Seen("Sled of 1931", "Kites"), "b": Seen("Foil of 1994", "Kites"),
         "d": Seen("Crow of 1981", "Kites")},
    ),
    "runs with br after": (
        """<p><img src=a.gif><br>Kite of the north<br><br><img src=b.gif><br>Kite of the south<br><br>
        <img src=c.gif><br>Kite of the west</p>""",
        {"a": Seen("Kite of the north", ANY), "b": Seen("Kite of the south", ANY),
         "c": Seen("Kite of the west", ANY)},
    ),
    "runs text before": (
        """<div>Kite of the north<br><img src=a.gif><br>Kite of the south<br><img src=b.gif><br>Kite of the west<br>
        <img src=c.gif></div>""",
        {"a": Seen("Kite of the north", ANY), "b": Seen("Kite of the south", ANY),
         "c": Seen("Kite of the west", ANY)},
    ),
    "p per item": (
        """<h1>Moths</h1><p><img src=a.jpg align=left> <b>Ghost moth</b> White, at dusk.</p><p>
        <img src=b.jpg align=left> <b>Tiger moth</b> Striped.</p><p>
        <img src=c.jpg align=left> <b>Swallowtail</b> Yellow.</p>""",
        {"a": Seen("Ghost moth", "Moths"), "b": Seen("Tiger moth", "Moths"), "c": Seen("Swallowtail", "Moths")},
    ),
    "dl div": (
        """<h2>Tools</h2><dl class=tools><div><dt>Awl</dt><dd><img src=a.png></dd><dd>Makes holes.</dd></div><div>
        <dt>Reel</dt><dd><img src=b.png></dd><dd>Holds line.</dd></div></dl>""",
        {"a": Seen("Awl", "Tools"), "b": Seen("Reel", "Tools")},
    ),
    "dl dt img": (
        """<dl><dt><img src=a.png></dt><dd><b>Awl</b> makes holes.</dd><dt><img src=b.png></dt><dd>
        <b>Reel</b> holds line.</dd></dl>""",
        {"a": Seen("Awl", ANY), "b": Seen("Reel", ANY)},
    ),
    "css tiles by id": (
        """<style>#n{background:url(a.jpg)}#s{background:url(b.jpg)}</style><h2>Halls</h2><div class=hall id=n>
        <h3>North hall</h3></div><div class=hall id=s><h3>South hall</h3></div>""",
        {"a": Seen("North hall", "Halls"), "b": Seen("South hall", "Halls")},
    ),
    "css tile inside": (
        """<h2>Halls</h2><div class=grid><a class=hall href=/n>
        <span class=pic style="background-image:url('a.jpg')"></span><span class=txt>North hall</span></a>
        <a class=hall href=/s><span class=pic style="background-image:url('b.jpg')"></span>
        <span class=txt>South hall</span></a></div>""",
        {"a": Seen("North hall", "Halls", "https://galewick.example/n"),
         "b": Seen("South hall", "Halls", "https://galewick.example/s")},
    ),
    "card hover image": (
        """<h2>Bags</h2><div class=g><div class=c><a href=/1><img class=front src=a.jpg>
        <img class=back src=a2.jpg></a><a href=/1 class=n>Canvas bag</a><span>£20</span></div><div class=c>
        <a href=/2><img class=front src=b.jpg><img class=back src=b2.jpg></a><a href=/2 class=n>Silk bag</a>
        <span>£30</span></div></div>""",
        {"a": Seen("Canvas bag", "Bags", "https://galewick.example/1"),
         "a2": Seen("Canvas bag", "Bags", "https://galewick.example/1"),
         "b": Seen("Silk bag", "Bags", "https://galewick.example/2"),
         "b2": Seen("Silk bag", "Bags", "https://galewick.example/2")},
    ),
    "card hover images with alts": (
        """<h2>Bags</h2><div class=g><div class=c><a href=/1><img class=front src=a.jpg alt="Canvas bag front">
        <img class=back src=a2.jpg alt="Canvas bag back"></a><p>Canvas bag</p><span>£20</span></div><div class=c>
        <a href=/2><img class=front src=b.jpg alt="Silk bag front">
        <img class=back src=b2.jpg alt="Silk bag back"></a><p>Silk bag</p><span>£30</span></div></div>""",
        {"a": Seen("Canvas bag", "Bags", "https://galewick.example/1"),
         "a2": Seen("Canvas bag", "Bags", "https://galewick.example/1"),
         "b": Seen("Silk bag", "Bags", "https://galewick.example/2")},
    ),
    "slider in cards": (
        """<h2>Flats</h2><div class=l><div class=flat><ul class=slides><li><img src=a.jpg></li><li>
        <img src=a2.jpg></li><li><img src=a3.jpg></li></ul><h3>Two rooms, Mill Street</h3><p>600 €</p></div>
        <div class=flat><ul class=slides><li><img src=b.jpg></li><li><img src=b2.jpg></li></ul>
        <h3>Three rooms, Quay</h3><p>800 €</p></div></div>""",
        {"a": Seen("Two rooms, Mill Street", "Flats"), "a3": Seen("Two rooms, Mill Street", "Flats"),
         "b2": Seen("Three rooms, Quay", "Flats")},
    ),
    "feed avatars": (
        """<div class=feed><div class=post><div class=head><img src=p1.jpg class=avatar width=40>
        <span class=user>pell</span> <time>2 h ago</time></div><img src=a.jpg class=photo>
        <p class=caption>Crow at dusk</p><span>12 likes</span></div><div class=post><div class=head>
        <img src=p2.jpg class=avatar width=40><span class=user>ino</span> <time>3 h ago</time></div>
        <img src=b.jpg class=photo><p class=caption>Wheel at dawn</p><span>3 likes</span></div></div>""",
        {"a": Seen("Crow at dusk", ANY), "b": Seen("Wheel at dawn", ANY)},
    ),
    "product page": (
        """<header class="site-header"><a href="/"><img src=logo.png alt="Galewick Kite Museum"></a><nav><ul><li>
        <a href=/shop>Shop</a><li><a href=/about>About</a></ul></nav></header><nav class=breadcrumb>
        <a>Shop</a></nav><main><div class=product><div class=gallery><img id=main src=a.jpg><ul class=thumbs><li>
        <img src=t1.jpg></li><li><img src=t2.jpg></li><li><img src=t3.jpg></li></ul></div><div class=info>
        <h1>Floor lantern “Dune”</h1><p class=price>€ 49</p><table><tr><th>Height<td>120 cm<tr>
        <th>Colour<td>Sand</table><button>Add to cart</button></div></div><section class=related>
        <h2>You may also like</h2><div class=row><div class=card><a href=/x><img src=r1.jpg></a>
        <h3>Table lantern</h3></div><div class=card><a href=/y><img src=r2.jpg></a>
        <h3>Wall lantern</h3></div></div></section></main><footer><p>© 2026 Galewick Kite Museum</p>
        <img src=pay1.png alt="A card"><img src=pay2.png alt="A coin"></footer>""",
        {"a": Seen("Floor lantern “Dune”", "Floor lantern “Dune”", "", {"Height": "120 cm", "Colour": "Sand"}),
         "t1": Seen("Floor lantern “Dune”", ANY, "", {"Height": "120 cm", "Colour": "Sand"}),
         "t3": Seen("Floor lantern “Dune”", ANY, "", {"Height": "120 cm", "Colour": "Sand"}),
         "r1": Seen("Table lantern", "You may also like", "https://galewick.example/x"),
         "r2": Seen("Wall lantern", "You may also like", "https://galewick.example/y"), "logo": Seen("", ANY)},
    ),
    "gallery plain": (
        """<h1>Festival 2025</h1><div class=gallery><img src=a.jpg alt="Red delta over the dunes">
        <img src=b.jpg alt="Two boxes side by side"><img src=c.jpg alt="The judges at work">
        <img src=d.jpg alt="Rain"></div>""",
        {"a": Seen("Red delta over the dunes", "Festival 2025"), "d": Seen("Rain", "Festival 2025")},
    ),
    "categories of cards": (
        """<h1>Menu</h1><div class=cat><h2>Soups</h2><div class=dish><img src=a.jpg><h3>Leek soup</h3></div>
        <div class=dish><img src=b.jpg><h3>Pea soup</h3></div></div><div class=cat><h2>Cakes</h2><div class=dish>
        <img src=c.jpg><h3>Plum cake</h3></div></div>""",
        {"a": Seen("Leek soup", "Soups"), "b": Seen("Pea soup", "Soups"), "c": Seen("Plum cake", "Cakes")},
    ),
    "flat headings sections of cards": (
        """<h1>Menu</h1><h2>Soups</h2><ul><li><img src=a.jpg>Leek soup</li><li><img src=b.jpg>Pea soup</li></ul>
        <h2>Cakes</h2><ul><li><img src=c.jpg>Plum cake</li><li><img src=d.jpg>Nut cake</li></ul>""",
        {"a": Seen("Leek soup", "Soups"), "c": Seen("Plum cake", "Cakes"), "d": Seen("Nut cake", "Cakes")},
    ),
    "aria grid": (
        """<div role=list><div role=listitem aria-label="Birch"><img src=a.jpg></div>
        <div role=listitem aria-label="Alder"><img src=b.jpg></div></div>""",
        {"a": Seen("Birch", ANY), "b": Seen("Alder", ANY)},
    ),
    "labelledby": (
        """<div class=x><section aria-labelledby=t1><img src=a.jpg><span id=t1>Birch</span>
        <p>A tree of the north.</p></section><section aria-labelledby=t2><img src=b.jpg><span id=t2>Alder</span>
        <p>A tree of the fen.</p></section></div>""",
        {"a": Seen("Birch", ANY), "b": Seen("Alder", ANY)},
    ),
    "caption with title and credit": (
        """<div class=wall><figure><img src=a.jpg><figcaption>Birch in snow<br>
        <small>Photo: P. Arbuthnot</small></figcaption></figure><figure><img src=b.jpg><figcaption>Alder in fog<br>
        <small>Photo: I. Hallas</small></figcaption></figure></div>""",
        {"a": Seen("Birch in snow", ANY, "", {"Photo": "P. Arbuthnot"}),
         "b": Seen("Alder in fog", ANY, "", {"Photo": "I. Hallas"})},
    ),
    "german shop": (
        """<h1>Laternen</h1><ul class=produkte><li class=produkt><a href=/l1><img src=a.jpg alt=Bild></a>
        <div class=preis>12,50 €</div><div class=bez><a href=/l1>Papierlaterne, rot</a></div>
        <a class=mehr href=/l1>Mehr erfahren</a></li><li class=produkt><a href=/l2><img src=b.jpg alt=Bild></a>
        <div class=preis>ab 9,00 €</div><div class=bez><a href=/l2>Papierlaterne, blau</a></div>
        <a class=mehr href=/l2>Mehr erfahren</a></li></ul>""",
        {"a": Seen("Papierlaterne, rot", "Laternen", "https://galewick.example/l1"),
         "b": Seen("Papierlaterne, blau", "Laternen", "https://galewick.example/l2")},
    ),
    "japanese": (
        """<h2>新着</h2><div class=list><div class=item><img src=a.jpg><p class=price>￥1,200</p><p>赤い提灯</p>
        <p>在庫あり</p></div><div class=item><img src=b.jpg><p class=price>￥900</p><p>青い提灯</p></div></div>""",
        {"a": Seen("赤い提灯", "新着"), "b": Seen("青い提灯", "新着")},
    ),
    "label lines in cards": (
        """<h2>Kites</h2><div class=k><img src=a.jpg><h3>Sled</h3><dl><dt>Maker</dt><dd>Ino</dd><dt>Year</dt>
        <dd>1970</dd></dl></div><div class=k><img src=b.jpg><h3>Foil</h3><dl><dt>Maker</dt><dd>Dag</dd><dt>Year</dt>
        <dd>1994</dd></dl></div>""",
        {"a": Seen("Sled", "Kites", "", {"Maker": "Ino", "Year": "1970"}),
         "b": Seen("Foil", "Kites", "", {"Maker": "Dag", "Year": "1994"})},
    ),
    "label spans": (
        """<h2>Kites</h2><div class=k><img src=a.jpg><h3>Sled</h3><p>
        <span class=label>Maker</span> <span class=value>Ino</span></p></div><div class=k><img src=b.jpg>
        <h3>Foil</h3><p><span class=label>Maker</span> <span class=value>Dag</span></p></div>""",
        {"a": Seen("Sled", "Kites", "", {"Maker": "Ino"}), "b": Seen("Foil", "Kites", "", {"Maker": "Dag"})},
    ),
    "title above picture": (
        """<h2>Exhibits</h2><div class=e><h3>The loom</h3><img src=a.jpg><p>From 1800.</p></div><div class=e>
        <h3>The wheel</h3><img src=b.jpg><p>From 1810.</p></div>""",
        {"a": Seen("The loom", "Exhibits"), "b": Seen("The wheel", "Exhibits")},
    ),
    "list entries text only after": (
        """<h2>Birds</h2><ul><li><img src=a.jpg> Wren</li><li><img src=b.jpg> Robin</li>
        <li>Owl (no picture yet)</li></ul>""",
        {"a": Seen("Wren", "Birds"), "b": Seen("Robin", "Birds")},
    ),
    "carousel clones slick": (
        """<section><h2>Highlights</h2><div class="slick-track">
        <div class="slick-slide slick-cloned" aria-hidden=true><a href=/c><img src=c.jpg>
        <span>Gamma</span></a></div><div class="slick-slide slick-current slick-active"><a href=/a><img src=a.jpg>
        <span>Alpha</span></a></div><div class="slick-slide"><a href=/b><img src=b.jpg><span>Beta</span></a></div>
        <div class="slick-slide"><a href=/c><img src=c.jpg><span>Gamma</span></a></div></div></section>""",
        {"a": Seen("Alpha", "Highlights", "https://galewick.example/a"),
         "b": Seen("Beta", "Highlights", "https://galewick.example/b"),
         "c": Seen("Gamma", "Highlights", "https://galewick.example/c")},
    ),
    "jsonld listing": (
        """<script type="application/ld+json">{"@context":"https://schema.org","@type":"ItemList","itemListElement":[{"@type":"ListItem","position":1,"item":{"@type":"Product","name":"Dune lamp","image":"https://galewick.example/kites/a.jpg","url":"https://galewick.example/d","offers":{"@type":"Offer","price":"20"}}},{"@type":"ListItem","position":2,"item":{"@type":"Product","name":"Reed lamp","image":"https://galewick.example/kites/b.jpg","url":"https://galewick.example/r"}}]}</script>
        <div class=x><div class=y><img src=a.jpg></div><div class=y><img src=b.jpg></div></div>""",
        {"a": Seen("Dune lamp", ANY, "https://galewick.example/d"),
         "b": Seen("Reed lamp", ANY, "https://galewick.example/r")},
    ),
    "rdfa": (
        """<div vocab="https://schema.org/"><div typeof="Product"><img property="image" src="a.jpg">
        <span property="name">Dune lamp</span><span property="color">sand</span></div><div typeof="Product">
        <img property="image" src="b.jpg"><span property="name">Reed lamp</span>
        <span property="color">green</span></div></div>""",
        {"a": Seen("Dune lamp", ANY, "", {"color": "sand"}), "b": Seen("Reed lamp", ANY, "", {"color": "green"})},
    ),
    "h-card": (
        """<div class="h-card"><img class="u-photo" src=a.jpg><a class="p-name u-url" href=/y>Ysolde Marrow</a>
        <span class=p-role>Keeper</span></div><div class="h-card"><img class="u-photo" src=b.jpg>
        <a class="p-name u-url" href=/d>Dag Winterbourne</a><span class=p-role>Guide</span></div>""",
        {"a": Seen("Ysolde Marrow", ANY, "https://galewick.example/y"),
         "b": Seen("Dag Winterbourne", ANY, "https://galewick.example/d")},
    ),
    "comparison two pic rows": (
        """<table><thead><tr><th></th><th>Sled</th><th>Foil</th></tr></thead><tbody><tr><th>Front</th><td>
        <img src=a.jpg></td><td><img src=b.jpg></td></tr><tr><th>Back</th><td><img src=a2.jpg></td><td>
        <img src=b2.jpg></td></tr><tr><th>Year</th><td>1970</td><td>1994</td></tr><tr><th>Wind</th><td>3</td>
        <td>4</td></tr><tr><th>Line</th><td>30</td><td>40</td></tr></tbody></table>""",
        {"a": Seen("Sled", ANY, "", {"Year": "1970", "Wind": "3", "Line": "30"}),
         "b2": Seen("Foil", ANY, "", {"Year": "1994", "Wind": "4", "Line": "40"})},
    ),
    "species two pics per row": (
        """<table><tr><th>Bird<th>Male<th>Female<th>Song</tr><tr><th>Wren<td><img src=a.jpg><td><img src=a2.jpg>
        <td>loud<tr><th>Robin<td><img src=b.jpg><td><img src=b2.jpg><td>sweet<tr><th>Owl<td><img src=c.jpg><td>
        <img src=c2.jpg><td>hoot</table>""",
        {"a": Seen("Wren", ANY, "", {"Bird": "Wren", "Song": "loud"}),
         "b2": Seen("Robin", ANY, "", {"Bird": "Robin", "Song": "sweet"}),
         "c": Seen("Owl", ANY, "", {"Bird": "Owl", "Song": "hoot"})},
    ),
    "group rows": (
        """<table><tr><th>Emblem<th>Guild<th>Town</tr><tr><th colspan=3>North</th></tr><tr><td><img src=a.png>
        <td>Birch<td>Ebb<tr><td><img src=b.png><td>Hazel<td>Flow<tr><th colspan=3>South</th></tr><tr><td>
        <img src=c.png><td>Alder<td>Quay</table>""",
        {"a": Seen("Birch", ANY, "", {"Guild": "Birch", "Town": "Ebb"}),
         "c": Seen("Alder", ANY, "", {"Guild": "Alder", "Town": "Quay"})},
    ),
    "h4 in list group with subheads": (
        """<section><h2>Rooms</h2><div class=rooms><section class=room><img src=a.jpg><h3>Attic</h3>
        <h4>Under the roof</h4></section><section class=room><img src=b.jpg><h3>Cellar</h3>
        <h4>Below ground</h4></section></div></section>""",
        {"a": Seen("Attic", "Rooms"), "b": Seen("Cellar", "Rooms")},
    ),
    "timeline": (
        """<h1>History</h1><ol class=timeline><li><time>1962</time><img src=a.jpg>
        <p>The first kite is flown from the dunes.</p></li><li><time>1977</time><img src=b.jpg>
        <p>The museum opens.</p></li></ol>""",
        {"a": Seen("The first kite is flown from the dunes.", "History"),
         "b": Seen("The museum opens.", "History")},
    ),
    "thing page h1 dl": (
        """<h1>Grey Octopus</h1><img src=a.jpg><img src=b.jpg><dl><dt>Maker<dd>Dag<dt>Year<dd>2003</dl>
        <p>A violet octopus kite.</p>""",
        {"a": Seen("Grey Octopus", "Grey Octopus", "", {"Maker": "Dag", "Year": "2003"}),
         "b": Seen("Grey Octopus", "Grey Octopus", "", {"Maker": "Dag", "Year": "2003"})},
    ),
    "home with hero": (
        """<header class="site-header"><a href="/"><img src=logo.png alt="Galewick Kite Museum"></a><nav><ul><li>
        <a href=/shop>Shop</a><li><a href=/about>About</a></ul></nav></header><main><section class=hero>
        <img src=hero.jpg><h1>Welcome to Galewick Kite Museum</h1><p>We fold paper.</p>
        <a href=/shop>Shop now</a></section><section><h2>Our collections</h2><div class=cols><div class=col>
        <img src=a.jpg><h3>Paper</h3></div><div class=col><img src=b.jpg><h3>Silk</h3></div></div></section></main>
        <footer><p>© 2026 Galewick Kite Museum</p><img src=pay1.png alt="A card">
        <img src=pay2.png alt="A coin"></footer>""",
        {"hero": Seen("", ANY), "a": Seen("Paper", "Our collections"), "b": Seen("Silk", "Our collections")},
    ),
    "a gallery of boxes": (
        """<h2>Gallery</h2><ul class="gallery plain"><li class="gallerybox" style="width:155px"><div class="thumb">
        <span><a href="/file/A.jpg" class="image"><img src=a.jpg></a></span></div><div class="gallerytext">
        <p>A delta over the dunes</p></div></li><li class="gallerybox"><div class="thumb"><span>
        <a href="/file/B.jpg" class="image"><img src=b.jpg></a></span></div><div class="gallerytext">
        <p>A box kite at rest</p></div></li></ul>""",
        {"a": Seen("A delta over the dunes", "Gallery"), "b": Seen("A box kite at rest", "Gallery")},
    ),
    "eyebrow repeated": (
        """<h2>Shop</h2><div class=g><div class=c><img src=a.jpg><span>Lanterns</span><div>Paper lantern, red</div>
        <div>€ 4</div></div><div class=c><img src=b.jpg><span>Lanterns</span><div>Paper lantern, blue</div>
        <div>€ 5</div></div><div class=c><img src=c.jpg><span>Lanterns</span><div>Floor lantern</div>
        <div>€ 9</div></div></div>""",
        {"a": Seen("Paper lantern, red", "Shop"), "b": Seen("Paper lantern, blue", "Shop"),
         "c": Seen("Floor lantern", "Shop")},
    ),
    "media objects": (
        """<h3>Speakers</h3><div class="media"><img class="mr-3" src=a.jpg><div class="media-body">
        <h5 class="mt-0">Tam Okonjo</h5>Speaks of knots and lines, and of what the wind does.</div></div>
        <div class="media"><img class="mr-3" src=b.jpg><div class="media-body">
        <h5 class="mt-0">Ino Hallas</h5>Speaks of paper.</div></div>""",
        {"a": Seen("Tam Okonjo", "Speakers"), "b": Seen("Ino Hallas", "Speakers")},
    ),
    "link cards with figure": (
        """<section><h2>Trips</h2><a href=/t1><figure><img src=a.jpg>
        <figcaption>To the island</figcaption></figure></a><a href=/t2><figure><img src=b.jpg>
        <figcaption>To the light</figcaption></figure></a></section>""",
        {"a": Seen("To the island", "Trips", "https://galewick.example/t1"),
         "b": Seen("To the light", "Trips", "https://galewick.example/t2")},
    ),
    "list figure": (
        """<h2>Trips</h2><ul><li><figure><a href=/t1><img src=a.jpg></a><figcaption><a href=/t1>To the island</a>
        <br>4 hours</figcaption></figure></li><li><figure><a href=/t2><img src=b.jpg></a><figcaption>
        <a href=/t2>To the light</a><br>2 hours</figcaption></figure></li></ul>""",
        {"a": Seen("To the island", "Trips", "https://galewick.example/t1"),
         "b": Seen("To the light", "Trips", "https://galewick.example/t2")},
    ),
    "price table no head": (
        """<h2>Menu</h2><table><tr><td><img src=a.jpg width=60></td><td><b>Leek soup</b><br>with bread</td>
        <td>4.50</td></tr><tr><td><img src=b.jpg width=60></td><td><b>Pea soup</b><br>with mint</td>
        <td>4.20</td></tr></table>""",
        {"a": Seen("Leek soup", "Menu"), "b": Seen("Pea soup", "Menu")},
    ),
    "multi tbody": (
        """<table><thead><tr><th>Photo</th><th>Name</th><th>Height</th></tr></thead><tbody><tr>
        <th colspan=3>Trees</th></tr><tr><td><img src=a.jpg></td><td>Birch</td><td>20 m</td></tr></tbody><tbody><tr>
        <th colspan=3>Shrubs</th></tr><tr><td><img src=b.jpg></td><td>Gorse</td><td>2 m</td></tr></tbody></table>""",
        {"a": Seen("Birch", "", "", {"Name": "Birch", "Height": "20 m"}),
         "b": Seen("Gorse", "", "", {"Name": "Gorse", "Height": "2 m"})},
    ),
    "aria tile": (
        """<h2>Coasts</h2><div class=t>
        <a class=tile href=/n aria-label="North coast" style="background:url(a.jpg)"></a>
        <a class=tile href=/s aria-label="South coast" style="background:url(b.jpg)"></a></div>""",
        {"a": Seen("North coast", "Coasts", "https://galewick.example/n"),
         "b": Seen("South coast", "Coasts", "https://galewick.example/s")},
    ),
    "same level headings": (
        """<h2>Latest</h2><div class=cards><div class=card><img src=a.jpg><h2>Roof mended</h2></div><div class=card>
        <img src=b.jpg><h2>Door painted</h2></div></div><h2>Older</h2><div class=cards><div class=card>
        <img src=c.jpg><h2>Wall built</h2></div><div class=card><img src=d.jpg><h2>Well dug</h2></div></div>""",
        {"a": Seen("Roof mended", "Latest"), "b": Seen("Door painted", "Latest"), "c": Seen("Wall built", "Older"),
         "d": Seen("Well dug", "Older")},
    ),
    "short article": (
        """<main><article><h1>A walk</h1><p>The keeper told us that the wind had turned in the night. </p><figure>
        <img src=a.jpg><figcaption>The gate</figcaption></figure>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p>
        <figure><img src=b.jpg><figcaption>The path</figcaption></figure>
        <p>The keeper told us that the wind had turned in the night. </p></article></main>""",
        {"a": Seen("", "A walk"), "b": Seen("", "A walk")},
    ),
    "short article sections": (
        """<h1>A walk</h1><p>The keeper told us that the wind had turned in the night. </p><h2>Morning</h2>
        <p>The keeper told us that the wind had turned in the night. </p><img src=a.jpg>
        <p>The keeper told us that the wind had turned in the night. </p><h2>Noon</h2><img src=b.jpg>
        <p>The keeper told us that the wind had turned in the night. </p>
        <p>The keeper told us that the wind had turned in the night. </p><h2>Night</h2>
        <p>The keeper told us that the wind had turned in the night. </p>""",
        {"a": Seen("", "Morning"), "b": Seen("", "Noon")},
    ),
    "flat posts": (
        """<h1>Notes</h1><div id=content><h2><a href=/1>Wind</a></h2><p class=date>3 May 2025</p><img src=a.jpg>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p>
        <h2><a href=/2>Rain</a></h2><p class=date>2 May 2025</p><img src=b.jpg>
        <p>The keeper told us that the wind had turned in the night. </p><h2><a href=/3>Fog</a></h2>
        <p class=date>1 May 2025</p><img src=c.jpg>
        <p>The keeper told us that the wind had turned in the night. </p></div>""",
        {"a": Seen("Wind", "Notes", "https://galewick.example/1"),
         "b": Seen("Rain", "Notes", "https://galewick.example/2"),
         "c": Seen("Fog", "Notes", "https://galewick.example/3")},
    ),
    "comments": (
        """<h2>Comments</h2><ol class=comments><li class=comment><img class=avatar src=pell.jpg width=48>
        <cite>Pell</cite> <time>yesterday</time><p>What a day it was, and what a wind.</p></li><li class=comment>
        <img class=avatar src=ino.jpg width=48><cite>Ino</cite> <time>today</time><p>Indeed.</p></li></ol>""",
        {"pell": Seen("Pell", "Comments"), "ino": Seen("Ino", "Comments")},
    ),
    "album sections": (
        """<h1>Albums</h1><section><h2>Spring</h2><div><img src=a.jpg><img src=b.jpg><img src=c.jpg></div></section>
        <section><h2>Autumn</h2><div><img src=d.jpg><img src=e.jpg></div></section>""",
        {"a": Seen("Spring", "Albums"), "e": Seen("Autumn", "Albums")},
    ),
    "definition cards details": (
        """<h2>Questions</h2><details><summary>How do I tie a bowline?</summary><img src=a.jpg>
        <p>Like this.</p></details><details><summary>How do I tie a hitch?</summary><img src=b.jpg>
        <p>Like that.</p></details>""",
        {"a": Seen("How do I tie a bowline?", "Questions"), "b": Seen("How do I tie a hitch?", "Questions")},
    ),
    "nested cards in carousel": (
        """<section class=carousel><h2>New</h2><div class=swiper-wrapper>
        <div class="swiper-slide swiper-slide-duplicate"><div class=card><a href=/2><img src=b.jpg></a>
        <div class=card-title>Foil</div></div></div><div class="swiper-slide swiper-slide-active"><div class=card>
        <a href=/1><img src=a.jpg></a><div class=card-title>Sled</div></div></div><div class="swiper-slide">
        <div class=card><a href=/2><img src=b.jpg></a><div class=card-title>Foil</div></div></div></div></section>""",
        {"a": Seen("Sled", "New", "https://galewick.example/1"),
         "b": Seen("Foil", "New", "https://galewick.example/2")},
    ),
    "sidebar widgets": (
        """<div id=wrap><div id=main><h1>Kites</h1><div class=entry><h2>Sled</h2><img src=a.jpg>
        <p>Flies low.</p></div><div class=entry><h2>Foil</h2><img src=b.jpg><p>Flies high.</p></div></div>
        <div id=sidebar><div class=widget><h3>About</h3><img src=me.jpg><p>I fly kites.</p></div><div class=widget>
        <h3>Links</h3><ul><li><a href=x>X</a></ul></div></div></div>""",
        {"a": Seen("Sled", "Kites"), "b": Seen("Foil", "Kites")},
    ),
    "table rowheader first, picture last": (
        """<table><caption>Birds of the fen</caption><thead><tr><td></td><th scope=col>Song</th>
        <th scope=col>Egg</th></tr></thead><tbody><tr><th scope=row>Wren</th><td>loud</td><td>
        <img src=a.jpg></td></tr><tr><th scope=row>Robin</th><td>sweet</td><td>
        <img src=b.jpg></td></tr></tbody></table>""",
        {"a": Seen("Wren", "", "", {"Song": "loud"}), "b": Seen("Robin", "", "", {"Song": "sweet"})},
    ),
    "a page about one product": (
        """<div itemscope itemtype="https://schema.org/Product"><h1 itemprop=name>Dune lamp</h1><div class=pics>
        <img itemprop=image src=a.jpg><img src=b.jpg><img src=c.jpg></div>
        <div itemprop=offers itemscope itemtype="https://schema.org/Offer"><span itemprop=price>20</span></div>
        <p>Material: reed</p></div><h2>Others</h2><ul><li><a href=/r><img src=d.jpg>Reed lamp</a></li><li>
        <a href=/s><img src=e.jpg>Silk lamp</a></li></ul>""",
        {"a": Seen("Dune lamp", "", "", {"Material": "reed", "price": "20"}),
         "b": Seen("Dune lamp", "", "", {"Material": "reed", "price": "20"}),
         "c": Seen("Dune lamp", "", "", {"Material": "reed", "price": "20"}),
         "d": Seen("Reed lamp", "Others", "https://galewick.example/r"),
         "e": Seen("Silk lamp", "Others", "https://galewick.example/s")},
    ),
    "font captions old": (
        """<table align=center><tr><td><a href="big/a.jpg"><img src="a.jpg" border="0"></a><br>
        <font face="Arial" size="-1">Sled, 1931</font></td><td><a href="big/b.jpg"><img src="b.jpg" border="0"></a>
        <br><font face="Arial" size="-1">Foil, 1994</font></td></tr></table>""",
        {"a": Seen("Sled, 1931"), "b": Seen("Foil, 1994")},
    ),
    "captions above": (
        """<table><tr><td>Sled</td><td>Foil</td></tr><tr><td><img src=a.jpg></td><td><img src=b.jpg></td></tr><tr>
        <td>Star</td><td>Sun</td></tr><tr><td><img src=c.jpg></td><td><img src=d.jpg></td></tr></table>""",
        {"a": Seen("Sled"), "d": Seen("Sun")},
    ),
    "hr separated": (
        """<img src=a.jpg><p><b>Sled</b></p><p>Low.</p><hr><img src=b.jpg><p><b>Foil</b></p><p>High.</p><hr>
        <img src=c.jpg><p><b>Star</b></p><p>Far.</p>""",
        {"a": Seen("Sled"), "b": Seen("Foil"), "c": Seen("Star")},
    ),
    "link text then img": (
        """<ul><li><a href=/1>Sled</a><br><a href=/1><img src=a.jpg></a></li><li><a href=/2>Foil</a><br><a href=/2>
        <img src=b.jpg></a></li></ul>""",
        {"a": Seen("Sled", "", "https://galewick.example/1"), "b": Seen("Foil", "", "https://galewick.example/2")},
    ),
    "masonry columns": (
        """<h1>Wall</h1><div class=masonry><div class=column><div class=brick><img src=a.jpg><p>Sand</p></div>
        <div class=brick><img src=b.jpg><p>Sea</p></div></div><div class=column><div class=brick><img src=c.jpg>
        <p>Sky</p></div></div></div>""",
        {"a": Seen("Sand", "Wall"), "c": Seen("Sky", "Wall")},
    ),
    "person with h-card nested photo": (
        """<div class=people><div class="person vcard"><div class=photo><img class=photo src=a.jpg></div>
        <div class="fn">Ysolde Marrow</div><div class=title>Head keeper</div></div><div class="person vcard">
        <div class=photo><img class=photo src=b.jpg></div><div class="fn">Dag Winterbourne</div>
        <div class=title>Keeper</div></div></div>""",
        {"a": Seen("Ysolde Marrow"), "b": Seen("Dag Winterbourne")},
    ),
    "buttons first": (
        """<div class=g><div class=c><button>♥</button><a href=/1><img src=a.jpg></a><a href=/1>Canvas bag</a>
        <s>£30</s> <b>£20</b></div><div class=c><button>♥</button><a href=/2><img src=b.jpg></a>
        <a href=/2>Silk bag</a><s>£40</s> <b>£35</b></div></div>""",
        {"a": Seen("Canvas bag", "", "https://galewick.example/1"),
         "b": Seen("Silk bag", "", "https://galewick.example/2")},
    ),
    "french": (
        """<h2>Nouveautés</h2><div class=l><div class=p><a href=/1><img src=a.jpg alt=photo></a>
        <p>Ajouter au panier</p><p>12,50 €</p><p>Lampion rouge</p></div><div class=p><a href=/2>
        <img src=b.jpg alt=photo></a><p>Ajouter au panier</p><p>9,00 €</p><p>Lampion bleu</p></div></div>""",
        {"a": Seen("Lampion rouge", "Nouveautés", "https://galewick.example/1"),
         "b": Seen("Lampion bleu", "Nouveautés", "https://galewick.example/2")},
    ),
    "rtl arabic": (
        """<h2>منتجات</h2><ul><li><img src=a.jpg><h3>فانوس أحمر</h3></li><li><img src=b.jpg>
        <h3>فانوس أزرق</h3></li></ul>""",
        {"a": Seen("فانوس أحمر", "منتجات"), "b": Seen("فانوس أزرق", "منتجات")},
    ),
    "jsonld stem": (
        """<script type="application/ld+json">[{"@type":"Product","name":"Dune lamp","image":"https://cdn.example/p/dune-lamp.jpg"},{"@type":"Product","name":"Reed lamp","image":"https://cdn.example/p/reed-lamp.jpg"}]</script>
        <div class=y><img src="/cache/dune-lamp-300x300.jpg"></div><div class=y>
        <img src="/cache/reed-lamp-300x300.jpg"></div>""",
        {"dune-lamp-300x300": Seen("Dune lamp"), "reed-lamp-300x300": Seen("Reed lamp")},
    ),
    "event list": (
        """<h1>Events</h1><ul class=events><li><div class=date><span>12</span><span>May</span></div><img src=a.jpg>
        <div><a href=/e1>Kite day</a><span>North beach</span></div></li><li><div class=date><span>19</span>
        <span>May</span></div><img src=b.jpg><div><a href=/e2>Lantern night</a><span>Harbour</span></div></li></ul>""",
        {"a": Seen("Kite day", "Events", "https://galewick.example/e1"),
         "b": Seen("Lantern night", "Events", "https://galewick.example/e2")},
    ),
    "infobox": (
        """<h1>Ysolde Marrow</h1><table class=infobox><tr><th colspan=2>Ysolde Marrow<tr><td colspan=2><img src=a.jpg>
        <br>Marrow in 1962<tr><th>Born<td>1941<tr><th>Trade<td>Keeper</table>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p>
        <h2>Work</h2>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p>
        <figure><img src=b.jpg><figcaption>The delta</figcaption></figure>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p>""",
        {"b": Seen("", "Work")},
    ),
    "grouped ul by h3 with intro": (
        """<h2>Trees</h2><p>These grow here.</p><div class=row><div class="col-md-4"><div class="thumbnail">
        <img src=a.jpg><div class="caption"><h3>Birch</h3><p>White bark.</p><p>
        <a href=# class="btn btn-primary">Button</a></p></div></div></div><div class="col-md-4">
        <div class="thumbnail"><img src=b.jpg><div class="caption"><h3>Alder</h3>
        <p>Wet feet.</p></div></div></div></div>""",
        {"a": Seen("Birch", "Trees"), "b": Seen("Alder", "Trees")},
    ),
    "rank table": (
        """<h2>Ranking</h2><table><tr><th>#</th><th>Player</th><th>Points</th></tr><tr><td>1 <img src=up.gif></td>
        <td><img src=a.jpg width=24> Pell</td><td>90</td></tr><tr><td>2 <img src=up.gif></td><td>
        <img src=b.jpg width=24> Ino</td><td>80</td></tr><tr><td>3 <img src=up.gif></td><td>
        <img src=c.jpg width=24> Dag</td><td>70</td></tr></table>""",
        {"a": Seen("Pell", "Ranking", "", {"#": "1", "Player": "Pell", "Points": "90"}),
         "b": Seen("Ino", "Ranking", "", {"#": "2", "Player": "Ino", "Points": "80"})},
    ),
    "header h1 hero then cards": (
        """<header><div class=hero style="background-image:url(hero.jpg)"><h1>Galewick</h1>
        <p>Kites since 1890</p></div></header><main><section><h2>Visit</h2><div class=c3><div><img src=a.jpg>
        <h3>Hours</h3><p>10 to 5</p></div><div><img src=b.jpg><h3>Prices</h3><p>Free</p></div><div><img src=d.jpg>
        <h3>Map</h3><p>By the mill</p></div></div></section></main>""",
        {"hero": Seen("", "Galewick"), "a": Seen("Hours", "Visit"), "b": Seen("Prices", "Visit")},
    ),
    "cards with many classes": (
        """<main class="max-w-7xl mx-auto"><h1 class="text-3xl">Collection</h1><div class="grid grid-cols-3 gap-4">
        <div class="rounded shadow p-4"><img class="w-full" src=a.jpg alt=""><div class="mt-2">
        <p class="text-lg font-semibold">Sled</p><p class="text-gray-500">1931 · paper</p></div></div>
        <div class="rounded shadow p-4"><img class="w-full" src=b.jpg alt=""><div class="mt-2">
        <p class="text-lg font-semibold">Foil</p><p class="text-gray-500">1994 · silk</p></div></div></div></main>""",
        {"a": Seen("Sled", "Collection"), "b": Seen("Foil", "Collection")},
    ),
    "cards with lists of facts": (
        """<h2>Boats</h2><div class=b><img src=a.jpg><h3>Gull</h3><ul><li>Length: 8 m</li>
        <li>Built: 1931</li></ul></div><div class=b><img src=c.jpg><h3>Tern</h3><ul><li>Length: 7 m</li>
        <li>Built: 1950</li></ul></div>""",
        {"a": Seen("Gull", "Boats", "", {"Length": "8 m", "Built": "1931"}),
         "c": Seen("Tern", "Boats", "", {"Length": "7 m", "Built": "1950"})},
    ),
    "cards with table facts": (
        """<h2>Boats</h2><div class=b><h3>Gull</h3><img src=a.jpg><table><tr><th>Length</th><td>8 m</td></tr><tr>
        <th>Built</th><td>1931</td></tr></table></div><div class=b><h3>Tern</h3><img src=c.jpg><table><tr>
        <th>Length</th><td>7 m</td></tr><tr><th>Built</th><td>1950</td></tr></table></div>""",
        {"a": Seen("Gull", "Boats", "", {"Length": "8 m", "Built": "1931"}),
         "c": Seen("Tern", "Boats", "", {"Length": "7 m", "Built": "1950"})},
    ),
    "rows as divs": (
        """<h2>Loans</h2><div class=table><div class=tr><div class=th>Picture</div><div class=th>Kite</div>
        <div class=th>Lender</div></div><div class=tr><div class=td><img src=a.jpg></div><div class=td>Octopus</div>
        <div class=td>Ebb Hall</div></div><div class=tr><div class=td><img src=b.jpg></div><div class=td>Sled</div>
        <div class=td>Flow Hall</div></div></div>""",
        {"a": Seen("Octopus", "Loans"), "b": Seen("Sled", "Loans")},
    ),
    "nested list groups": (
        """<ul><li><h3>Trees</h3><ul><li><img src=a.jpg>Birch</li><li><img src=b.jpg>Alder</li></ul></li><li>
        <h3>Shrubs</h3><ul><li><img src=c.jpg>Gorse</li><li><img src=d.jpg>Broom</li></ul></li></ul>""",
        {"a": Seen("Birch", "Trees"), "c": Seen("Gorse", "Shrubs")},
    ),
    "two level headings": (
        """<h1>Guide</h1><h2>Birds</h2><h3>Fen</h3><ul><li><img src=a.jpg>Wren</li><li><img src=b.jpg>Rail</li></ul>
        <h3>Wood</h3><ul><li><img src=c.jpg>Owl</li><li><img src=d.jpg>Jay</li></ul><h2>Beasts</h2><ul><li>
        <img src=e.jpg>Hare</li><li><img src=f.jpg>Fox</li></ul>""",
        {"a": Seen("Wren", "Fen"), "c": Seen("Owl", "Wood"), "e": Seen("Hare", "Beasts")},
    ),
    "title in link title attr only": (
        """<ul class=thumbs><li><a href=/1 title="Red Delta"><img src=a.jpg></a></li><li>
        <a href=/2 title="Night Crow"><img src=b.jpg></a></li><li><a href=/3 title="Mill Wheel">
        <img src=c.jpg></a></li></ul>""",
        {"a": Seen("Red Delta", "", "https://galewick.example/1"),
         "b": Seen("Night Crow", "", "https://galewick.example/2")},
    ),
    "img title attr": (
        """<div class=row><img src=a.jpg title="Red Delta"><img src=b.jpg title="Night Crow">
        <img src=c.jpg title="Mill Wheel"></div>""",
        {"a": Seen("Red Delta")},
    ),
    "headline below lead image with figure and credit": (
        """<main><h1>News</h1><section><article class=teaser><figure><img src=a.jpg>
        <figcaption>Photo: Pell</figcaption></figure><h2>Roof mended</h2><p>At last.</p></article>
        <article class=teaser><figure><img src=b.jpg><figcaption>Photo: Ino</figcaption></figure>
        <h2>Door painted</h2><p>Blue.</p></article></section></main>""",
        {"a": Seen("Roof mended", "News", "", {"Photo": "Pell"}),
         "b": Seen("Door painted", "News", "", {"Photo": "Ino"})},
    ),
    "layout with spacer cells": (
        """<table><tr><td><img src=a.gif></td><td width=10><img src=sp.gif width=1 height=1></td><td>
        <img src=b.gif></td></tr><tr><td>Sled</td><td></td><td>Foil</td></tr></table>""",
        {"a": Seen("Sled"), "b": Seen("Foil")},
    ),
    "layout caption in same cell centered p": (
        """<table width="90%"><tr><td align="center"><p><a href="s.htm"><img src="a.jpg"></a></p>
        <p>The <i>Gull</i></p></td><td align="center"><p><a href="t.htm"><img src="b.jpg"></a></p>
        <p>The <i>Tern</i></p></td></tr></table>""",
        {"a": Seen("The Gull", "", "s.htm"), "b": Seen("The Tern", "", "t.htm")},
    ),
    "numbered captions": (
        """<div class=pics><div class=pic><img src=a.jpg><p>Fig. 1: The mill in snow</p></div><div class=pic>
        <img src=b.jpg><p>Fig. 2: The mill in fog</p></div></div>""",
        {"a": Seen("Fig. 1: The mill in snow"), "b": Seen("Fig. 2: The mill in fog")},
    ),
    "comparison divs": (
        """<h2>Plans</h2><div class=cols><div class=plan><img src=a.png><div class=name>Small</div>
        <div class=price>€ 3 / month</div><ul><li>One kite</li><li>One line</li></ul><a class=btn>Choose</a></div>
        <div class=plan><img src=b.png><div class=name>Large</div><div class=price>€ 9 / month</div><ul>
        <li>Nine kites</li><li>Nine lines</li></ul><a class=btn>Choose</a></div></div>""",
        {"a": Seen("Small", "Plans"), "b": Seen("Large", "Plans")},
    ),
    "related strip in article": (
        """<article><h1>A storm</h1>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p>
        <img src=x.jpg>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p></article>
        <section class=related><h2>Read also</h2><div class=strip><a href=/1><img src=a.jpg>
        <span>The calm</span></a><a href=/2><img src=b.jpg><span>The fog</span></a></div></section>""",
        {"x": Seen("", "A storm"), "a": Seen("The calm", "Read also", "https://galewick.example/1"),
         "b": Seen("The fog", "Read also", "https://galewick.example/2")},
    ),
    "staff table two per row": (
        """<table class=staff><tr><td><img src=a.jpg></td><td><b>Pell</b><br>Guide</td><td><img src=b.jpg></td><td>
        <b>Ino</b><br>Keeper</td></tr><tr><td><img src=c.jpg></td><td><b>Dag</b><br>Smith</td><td>
        <img src=d.jpg></td><td><b>Tam</b><br>Cook</td></tr></table>""",
        {"a": Seen("Pell"), "b": Seen("Ino"), "c": Seen("Dag"), "d": Seen("Tam")},
    ),
    "definition table th left with picture rows": (
        """<table><tr><th>Wren</th><td><img src=a.jpg></td><td>Loud song</td></tr><tr><th>Robin</th><td>
        <img src=b.jpg></td><td>Sweet song</td></tr></table>""",
        {"a": Seen("Wren"), "b": Seen("Robin")},
    ),
    "lists with strong and em dash": (
        """<ul><li><img src=a.png> <strong>Bowline</strong> — holds the bridle</li><li>
        <img src=b.png> <strong>Hitch</strong> — ties the line</li></ul>""",
        {"a": Seen("Bowline"), "b": Seen("Hitch")},
    ),
    "steps": (
        """<h2>How to</h2><ol><li><h3>Cut the sail</h3><img src=a.jpg><p>Use a sharp knife.</p></li><li>
        <h3>Tie the cross</h3><img src=b.jpg><p>Tight.</p></li></ol>""",
        {"a": Seen("Cut the sail", "How to"), "b": Seen("Tie the cross", "How to")},
    ),
    "tiles with h2 overlay and section h2": (
        """<section><header><h2>Explore</h2><a href=/all>See all</a></header><div class=tiles><article><a href=/a>
        <img src=a.jpg></a><header><h3><a href=/a>Attic</a></h3></header></article><article><a href=/b>
        <img src=b.jpg></a><header><h3><a href=/b>Cellar</a></h3></header></article></div></section>""",
        {"a": Seen("Attic", "Explore", "https://galewick.example/a"),
         "b": Seen("Cellar", "Explore", "https://galewick.example/b")},
    ),
    "microdata list": (
        """<ul itemscope itemtype="https://schema.org/ItemList">
        <li itemprop=itemListElement itemscope itemtype="https://schema.org/Product"><img itemprop=image src=a.jpg>
        <span itemprop=name>Dune lamp</span></li>
        <li itemprop=itemListElement itemscope itemtype="https://schema.org/Product"><img itemprop=image src=b.jpg>
        <span itemprop=name>Reed lamp</span></li></ul>""",
        {"a": Seen("Dune lamp"), "b": Seen("Reed lamp")},
    ),
    "persons rdfa": (
        """<div vocab="http://schema.org/" typeof="Organization"><div property="employee" typeof="Person">
        <img property="image" src=a.jpg>
        <span property="name">Ysolde Marrow</span>, <span property="jobTitle">keeper</span></div>
        <div property="employee" typeof="Person"><img property="image" src=b.jpg>
        <span property="name">Dag Winterbourne</span>, <span property="jobTitle">guide</span></div></div>""",
        {"a": Seen("Ysolde Marrow", "", "", {"jobTitle": "keeper"}),
         "b": Seen("Dag Winterbourne", "", "", {"jobTitle": "guide"})},
    ),
    "gallery with lightbox captions data": (
        """<div class=gallery><a href="a-big.jpg" data-caption="The mill"><img src=a.jpg></a>
        <a href="b-big.jpg" data-caption="The quay"><img src=b.jpg></a><a href="c-big.jpg" data-caption="The dunes">
        <img src=c.jpg></a></div>""",
        {"a": Seen("The mill"), "b": Seen("The quay"), "c": Seen("The dunes")},
    ),
    "price above title, sale": (
        """<h2>Sale</h2><ul><li><a href=/1><img src=a.jpg></a><del>€ 20</del> <ins>€ 15</ins><br>
        <a href=/1>Dune lamp</a></li><li><a href=/2><img src=b.jpg></a><del>€ 30</del> <ins>€ 25</ins><br>
        <a href=/2>Reed lamp</a></li></ul>""",
        {"a": Seen("Dune lamp", "Sale", "https://galewick.example/1"),
         "b": Seen("Reed lamp", "Sale", "https://galewick.example/2")},
    ),
    "h2 as section after cards": (
        """<div class=sec><h2>Kites</h2><p>All of them.</p><div class=wrap><div class=it><img src=a.jpg>
        <span>Sled</span></div><div class=it><img src=b.jpg><span>Foil</span></div></div></div><div class=sec>
        <h2>Lamps</h2><div class=wrap><div class=it><img src=c.jpg><span>Dune</span></div><div class=it>
        <img src=d.jpg><span>Reed</span></div></div></div>""",
        {"a": Seen("Sled", "Kites"), "d": Seen("Reed", "Lamps")},
    ),
    "gridcells": (
        """<h2>Wall</h2><div role=grid><div role=row><div role=gridcell><img src=a.jpg><span>Sled</span></div>
        <div role=gridcell><img src=b.jpg><span>Foil</span></div></div><div role=row><div role=gridcell>
        <img src=c.jpg><span>Star</span></div><div role=gridcell><img src=d.jpg><span>Sun</span></div></div></div>""",
        {"a": Seen("Sled", "Wall"), "d": Seen("Sun", "Wall")},
    ),
    "colspan header": (
        """<table><tr><th colspan=2>Player<th>Points<tr><td><img src=a.png width=24><td>Pell<td>90<tr><td>
        <img src=b.png width=24><td>Ino<td>80</table>""",
        {"a": Seen("Pell", "", "", {"Player": "Pell", "Points": "90"}),
         "b": Seen("Ino", "", "", {"Player": "Ino", "Points": "80"})},
    ),
    "rowgroup th": (
        """<table><tr><th>Coast<th>Port<th>View<tr><th rowspan=2 scope=rowgroup>North<th scope=row>Ebb<td>
        <img src=a.jpg><tr><th scope=row>Flow<td><img src=b.jpg><tr><th scope=rowgroup>South<th scope=row>Quay<td>
        <img src=c.jpg></table>""",
        {"a": Seen("Ebb", "", "", {"Coast": "North", "Port": "Ebb"}),
         "b": Seen("Flow", "", "", {"Coast": "North", "Port": "Flow"}),
         "c": Seen("Quay", "", "", {"Coast": "South", "Port": "Quay"})},
    ),
    "nested table cards": (
        """<table><tr><td><table><tr><td><img src=a.jpg></td></tr><tr><td><b>Sled</b></td></tr></table></td><td>
        <table><tr><td><img src=b.jpg></td></tr><tr><td><b>Foil</b></td></tr></table></td></tr></table>""",
        {"a": Seen("Sled"), "b": Seen("Foil")},
    ),
    "articles labelledby": (
        """<h2>Stories</h2><div role=list><div role=listitem><article aria-labelledby=x1><img src=a.jpg>
        <p id=x1>The storm</p></article></div><div role=listitem><article aria-labelledby=x2><img src=b.jpg>
        <p id=x2>The calm</p></article></div></div>""",
        {"a": Seen("The storm", "Stories"), "b": Seen("The calm", "Stories")},
    ),
    "figures in cells": (
        """<table><tr><td><figure><img src=a.jpg><figcaption>Sled</figcaption></figure></td><td><figure>
        <img src=b.jpg><figcaption>Foil</figcaption></figure></td></tr></table>""",
        {"a": Seen("Sled"), "b": Seen("Foil")},
    ),
    "cards h3 with badge inside": (
        """<div class=g><div class=c><img src=a.jpg><h3>Dune lamp <span class=badge>New</span></h3></div>
        <div class=c><img src=b.jpg><h3>Reed lamp</h3></div></div>""",
        {"a": Seen("Dune lamp"), "b": Seen("Reed lamp")},
    ),
    "headings in two lines": (
        """<div class=g><a href=1><img src=a.jpg><h3>Dune<br>lamp</h3></a><a href=2><img src=b.jpg>
        <h3>Reed<br>lamp</h3></a></div>""",
        {"a": Seen("Dune lamp", "", "1"), "b": Seen("Reed lamp", "", "2")},
    ),
    "portfolio hover": (
        """<ul class=work><li><a href=/w1><img src=a.jpg><div class=info><span class=cat>Print</span>
        <strong>Harbour map</strong></div></a></li><li><a href=/w2><img src=b.jpg><div class=info>
        <span class=cat>Print</span><strong>Moor map</strong></div></a></li></ul>""",
        {"a": Seen("Harbour map", "", "https://galewick.example/w1"),
         "b": Seen("Moor map", "", "https://galewick.example/w2")},
    ),
    "recipes": (
        """<section><h2>Soups</h2><div class=r><a href=/r1><img src=a.jpg alt=""></a><div>30 min · easy</div>
        <a class=r-link href=/r1>Leek soup with cream</a></div><div class=r><a href=/r2><img src=b.jpg alt=""></a>
        <div>45 min · easy</div><a class=r-link href=/r2>Pea soup</a></div></section>""",
        {"a": Seen("Leek soup with cream", "Soups", "https://galewick.example/r1"),
         "b": Seen("Pea soup", "Soups", "https://galewick.example/r2")},
    ),
    "events with number first": (
        """<ol><li><b>1.</b> <img src=a.jpg> Wake</li><li><b>2.</b> <img src=b.jpg> Walk</li></ol>""",
        {"a": Seen("Wake"), "b": Seen("Walk")},
    ),
    "books": (
        """<div class=shelf><div class=book><img src=a.jpg><div class=author>Pell Arbuthnot</div>
        <div class=title>Of crows</div></div><div class=book><img src=b.jpg><div class=author>Ino Hallas</div>
        <div class=title>Of wheels</div></div></div>""",
        {"a": Seen("Of crows"), "b": Seen("Of wheels")},
    ),
    "tracks table": (
        """<table class=tracks><tbody><tr><td>1</td><td><img src=a.jpg width=40></td><td><a href=/t1>Low wind</a>
        <br><small>Pell</small></td><td>3:40</td></tr><tr><td>2</td><td><img src=b.jpg width=40></td><td>
        <a href=/t2>High wind</a><br><small>Pell</small></td><td>4:10</td></tr></tbody></table>""",
        {"a": Seen("Low wind", "", "https://galewick.example/t1"),
         "b": Seen("High wind", "", "https://galewick.example/t2")},
    ),
    "testimonials": (
        """<h2>They say</h2><div class=t><p>“The keeper told us that the wind had turned in the night. ”</p>
        <img src=a.jpg class=round><cite>Tam, Ebb</cite></div><div class=t>
        <p>“The keeper told us that the wind had turned in the night. ”</p><img src=b.jpg class=round>
        <cite>Dag, Flow</cite></div>""",
        {"a": Seen("Tam, Ebb", "They say"), "b": Seen("Dag, Flow", "They say")},
    ),
    "map list with address": (
        """<ul class=shops><li><img src=a.jpg><h4>Ebb shop</h4><address>4 Quay</address><p>Phone: 123 456</p></li>
        <li><img src=b.jpg><h4>Flow shop</h4><address>9 Mill</address><p>Phone: 123 457</p></li></ul>""",
        {"a": Seen("Ebb shop", "", "", {"Phone": "123 456"}), "b": Seen("Flow shop", "", "", {"Phone": "123 457"})},
    ),
    "russian": (
        """<h2>Новинки</h2><div class=i><img src=a.jpg><div>1 200 ₽</div><div>Красный фонарь</div>
        <a href=/1>Подробнее</a></div><div class=i><img src=b.jpg><div>900 ₽</div><div>Синий фонарь</div>
        <a href=/2>Подробнее</a></div>""",
        {"a": Seen("Красный фонарь", "Новинки", "https://galewick.example/1"),
         "b": Seen("Синий фонарь", "Новинки", "https://galewick.example/2")},
    ),
    "h1 logo then gallery": (
        """<header><h1><a href=/><img src=logo.png alt="Kite club"></a></h1></header><main><h2>Members</h2><ul><li>
        <img src=a.jpg> Pell</li><li><img src=b.jpg> Ino</li></ul></main>""",
        {"a": Seen("Pell", "Members"), "logo": Seen()},
    ),
    "old list of links with thumbs": (
        """<h3>1998</h3><a href=a.html><img src=ta.gif></a> <a href=a.html>The regatta</a><br><a href=b.html>
        <img src=tb.gif></a> <a href=b.html>The picnic</a><br><h3>1999</h3><a href=c.html>
        <img src=tc.gif></a> <a href=c.html>The flood</a><br><a href=d.html>
        <img src=td.gif></a> <a href=d.html>The thaw</a><br>""",
        {"ta": Seen("The regatta", "1998", "a.html"), "tb": Seen("The picnic", "1998", "b.html"),
         "tc": Seen("The flood", "1999", "c.html"), "td": Seen("The thaw", "1999", "d.html")},
    ),
    "p with img then p with text": (
        """<h2>Finds</h2><p><img src=a.jpg></p><p>A bronze pin</p><p><img src=b.jpg></p><p>A clay pot</p><p>
        <img src=c.jpg></p><p>A comb</p>""",
        {"a": Seen("A bronze pin", "Finds"), "c": Seen("A comb", "Finds")},
    ),
    "forum index": (
        """<h2>Topics</h2><table class=topics><tr><th></th><th>Topic</th><th>By</th></tr><tr><td>
        <img src=new.gif></td><td><a href=/t/1>Knots</a></td><td>Pell</td></tr><tr><td><img src=new.gif></td><td>
        <a href=/t/2>Lines</a></td><td>Ino</td></tr></table>""",
        {"new": Seen("Knots", "Topics", "https://galewick.example/t/1", {"Topic": "Knots", "By": "Pell"})},
    ),
    "cards with category heading above title": (
        """<h2>All</h2><div class=l><div class=c><img src=a.jpg><h4>Kites</h4><h3>Dune delta</h3></div><div class=c>
        <img src=b.jpg><h4>Kites</h4><h3>Reed foil</h3></div></div>""",
        {"a": Seen("Dune delta", "All"), "b": Seen("Reed foil", "All")},
    ),
    "same size headings repeated category": (
        """<h2>All</h2><div class=l><div class=c><img src=a.jpg><h3>Kites</h3><h3>Dune delta</h3></div><div class=c>
        <img src=b.jpg><h3>Kites</h3><h3>Reed foil</h3></div><div class=c><img src=d.jpg><h3>Kites</h3>
        <h3>Moor box</h3></div></div>""",
        {"a": Seen("Dune delta", "All"), "b": Seen("Reed foil", "All")},
    ),
    "image links text list": (
        """<h1>Birds</h1><p><a href=w.html><img src=w.gif width=100 height=75></a><br><a href=w.html>Wren</a></p><p>
        <a href=r.html><img src=r.gif width=100 height=75></a><br><a href=r.html>Robin</a></p>""",
        {"w": Seen("Wren", "Birds", "w.html"), "r": Seen("Robin", "Birds", "r.html")},
    ),
    "product with variants": (
        """<main><h1>Canvas bag</h1><div class=photos><img src=a.jpg alt="Canvas bag">
        <img src=b.jpg alt="Canvas bag, inside"></div><p class=price>£20</p><table class=spec><tr>
        <th>Size<td>30 cm<tr><th>Cloth<td>canvas</table><h2>Colours</h2><ul class=swatches><li><a href=/red>
        <img src=red.png width=30 alt=Red></a></li><li><a href=/blue>
        <img src=blue.png width=30 alt=Blue></a></li></ul></main>""",
        {"a": Seen("Canvas bag", "Canvas bag", "", {"Size": "30 cm", "Cloth": "canvas"}),
         "b": Seen("Canvas bag", "Canvas bag", "", {"Size": "30 cm", "Cloth": "canvas"})},
    ),
    "gallery figure no caption alt": (
        """<h1>Regatta</h1><div class=gal><figure><img src=a.jpg alt="The start at noon"></figure><figure>
        <img src=b.jpg alt="Round the buoy"></figure><figure><img src=c.jpg alt="The finish"></figure></div>""",
        {"a": Seen("The start at noon", "Regatta")},
    ),
    "team modal hidden": (
        """<h2>Team</h2><div class=m><img src=a.jpg><h3>Pell</h3><p>Guide</p><div class=modal style="display:none">
        <h2>Pell Arbuthnot, guide since 1990</h2>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p></div></div>
        <div class=m><img src=b.jpg><h3>Ino</h3><p>Smith</p><div class=modal style="display:none">
        <h2>Ino Hallas</h2>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p></div></div>""",
        {"a": Seen("Pell", "Team"), "b": Seen("Ino", "Team")},
    ),
    "long descriptions cards": (
        """<h2>Walks</h2><div class=w><img src=a.jpg><h3>The dunes</h3>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p></div>
        <div class=w><img src=b.jpg><h3>The moor</h3>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p></div>""",
        {"a": Seen("The dunes", "Walks"), "b": Seen("The moor", "Walks")},
    ),
    "two column table of features": (
        """<table><tr><td width="50%"><img src=a.gif><h3>Fast</h3><p>It flies.</p></td><td><img src=b.gif>
        <h3>Light</h3><p>It floats.</p></td></tr></table>""",
        {"a": Seen("Fast"), "b": Seen("Light")},
    ),
    "header row of pictures": (
        """<table><tr><th></th><th><img src=a.jpg><br>Sled</th><th><img src=b.jpg><br>Foil</th></tr><tr>
        <td>Wind</td><td>3</td><td>4</td></tr><tr><td>Line</td><td>30 m</td><td>40 m</td></tr></table>""",
        {"a": Seen("Sled", "", "", {"Wind": "3", "Line": "30 m"}),
         "b": Seen("Foil", "", "", {"Wind": "4", "Line": "40 m"})},
    ),
    "museum list with inline numbers": (
        """<ol class=objects><li>12. <a href=/o/12><img src=a.jpg></a> <i>Bronze pin</i>, 3rd century</li>
        <li>13. <a href=/o/13><img src=b.jpg></a> <i>Clay pot</i>, 2nd century</li></ol>""",
        {"a": Seen("Bronze pin, 3rd century", "", "https://galewick.example/o/12"),
         "b": Seen("Clay pot, 2nd century", "", "https://galewick.example/o/13")},
    ),
    "cards without class tags differ": (
        """<h2>Now</h2><section><img src=a.jpg><h3>Sled</h3></section><section><h3>Foil</h3>
        <img src=b.jpg></section>""",
        {"a": Seen("Sled", "Now"), "b": Seen("Foil", "Now")},
    ),
    "nav tiles": (
        """<nav class=tiles><a href=/a><img src=menu.jpg><span>Attic</span></a></nav><h1>House</h1><div class=tiles>
        <a href=/b><img src=b.jpg><span>Cellar</span></a><a href=/c><img src=c.jpg><span>Yard</span></a></div>""",
        {"b": Seen("Cellar", "House", "https://galewick.example/b"),
         "c": Seen("Yard", "House", "https://galewick.example/c")},
    ),
    "picture element cards": (
        """<h2>P</h2><div class=k><picture><source srcset=a.webp><img src=a.jpg></picture>
        <p class=k-name>Sled</p></div><div class=k><picture><source srcset=b.webp><img src=b.jpg></picture>
        <p class=k-name>Foil</p></div>""",
        {"a": Seen("Sled", "P"), "b": Seen("Foil", "P")},
    ),
    "lazy spans": (
        """<div class=k><img src=data:image/gif;base64,R0lGODlhAQABAAAAACw= data-src=a.jpg><b>Sled</b></div>
        <div class=k><img src=data:image/gif;base64,R0lGODlhAQABAAAAACw= data-src=b.jpg><b>Foil</b></div>""",
        {"gif;base64,R0lGODlhAQABAAAAACw=": Seen("Foil")},
    ),
    "wide old page": (
        """<body><center><img src=title.gif width=400 height=80></center><hr><table border=1><tr>
        <td colspan=2 align=center><b>Our boats</b></td></tr><tr><td><img src=a.jpg></td>
        <td>Gull, built 1931</td></tr><tr><td><img src=b.jpg></td><td>Tern, built 1950</td></tr></table>""",
        {"a": Seen("Gull, built 1931"), "b": Seen("Tern, built 1950")},
    ),
    "three per row with br text before": (
        """<table><tr><td>Sled<br><img src=a.jpg></td><td>Foil<br><img src=b.jpg></td><td>Star<br>
        <img src=c.jpg></td></tr></table>""",
        {"a": Seen("Sled"), "b": Seen("Foil"), "c": Seen("Star")},
    ),
    "figure with heading inside": (
        """<section><h2>Trees</h2><figure><h3>Birch</h3><img src=a.jpg><figcaption>In March</figcaption></figure>
        <figure><h3>Alder</h3><img src=b.jpg><figcaption>In April</figcaption></figure></section>""",
        {"a": Seen("Birch", "Trees"), "b": Seen("Alder", "Trees")},
    ),
    "link cards with price in title class": (
        """<div class=list><a class=item href=/1><img src=a.jpg><div class=item-title>Dune lamp</div>
        <div class=item-price>9 crowns</div></a><a class=item href=/2><img src=b.jpg>
        <div class=item-title>Reed lamp</div><div class=item-price>8 crowns</div></a></div>""",
        {"a": Seen("Dune lamp", "", "https://galewick.example/1"),
         "b": Seen("Reed lamp", "", "https://galewick.example/2")},
    ),
    "auction lots": (
        """<h2>Lots</h2><div class=lot><span class=lot-no>Lot 12</span><img src=a.jpg><h3>A brass bell</h3>
        <p>Estimate: 40–60</p></div><div class=lot><span class=lot-no>Lot 13</span><img src=b.jpg>
        <h3>A sea chest</h3><p>Estimate: 80–90</p></div>""",
        {"a": Seen("A brass bell", "Lots", "", {"Estimate": "40–60"}),
         "b": Seen("A sea chest", "Lots", "", {"Estimate": "80–90"})},
    ),
    "real estate": (
        """<div class=res><article><div class=slider><div><img src=a.jpg></div><div><img src=a2.jpg></div></div>
        <div class=price>€ 250.000</div><h2><a href=/h1>House by the mill</a></h2><ul class=facts><li>4 rooms</li>
        <li>120 m²</li></ul></article><article><div class=slider><div><img src=b.jpg></div><div>
        <img src=b2.jpg></div></div><div class=price>€ 180.000</div><h2><a href=/h2>Flat on the quay</a></h2>
        <ul class=facts><li>2 rooms</li><li>60 m²</li></ul></article></div>""",
        {"a": Seen("House by the mill", "", "https://galewick.example/h1"),
         "a2": Seen("House by the mill", "", "https://galewick.example/h1"),
         "b2": Seen("Flat on the quay", "", "https://galewick.example/h2")},
    ),
    "staff with mail links": (
        """<table><tr><td><img src=a.jpg></td><td>Pell Arbuthnot<br>Guide<br>
        <a href="mailto:p@x.example">p@x.example</a></td></tr><tr><td><img src=b.jpg></td>
        <td>Ino Hallas<br>Smith<br><a href="mailto:i@x.example">i@x.example</a></td></tr></table>""",
        {"a": Seen("Pell Arbuthnot"), "b": Seen("Ino Hallas")},
    ),
    "accordion": (
        """<h2>Plants</h2><div class=acc><button>Birch</button><div class=panel><img src=a.jpg>
        <p>White bark.</p></div><button>Alder</button><div class=panel><img src=b.jpg><p>Wet feet.</p></div></div>""",
        {"a": Seen("Birch", "Plants"), "b": Seen("Alder", "Plants")},
    ),
    "tabs with nested cards": (
        """<div class=tabs><ul role=tablist><li>Soups<li>Cakes</ul><div role=tabpanel aria-label=Soups><div class=d>
        <img src=a.jpg><b>Leek</b></div><div class=d><img src=b.jpg><b>Pea</b></div></div>
        <div role=tabpanel aria-label=Cakes><div class=d><img src=c.jpg><b>Plum</b></div></div></div>""",
        {"a": Seen("Leek"), "b": Seen("Pea"), "c": Seen("Plum")},
    ),
    "calendar of events table": (
        """<h2>May</h2><table><thead><tr><th>Date<th>Event<th>Place<th>Poster</thead><tbody><tr><td>3 May<td>
        <a href=/e/1>Kite day</a><td>Beach<td><img src=a.jpg><tr><td>9 May<td><a href=/e/2>Lantern night</a>
        <td>Quay<td><img src=b.jpg></table>""",
        {
         "a": Seen("Kite day", "May", "https://galewick.example/e/1", {"Date": "3 May", "Event": "Kite day", "Place": "Beach"}),
         "b": Seen("Lantern night", "May", "https://galewick.example/e/2", {"Date": "9 May", "Event": "Lantern night", "Place": "Quay"})},
    ),
    "bird list with latin": (
        """<ul class=species><li><img src=a.jpg><span class=common>Wren</span> <em>Troglodytes</em></li><li>
        <img src=b.jpg><span class=common>Robin</span> <em>Erithacus</em></li></ul>""",
        {"a": Seen("Wren"), "b": Seen("Robin")},
    ),
    "inline images in list of news": (
        """<h2>News</h2><ul class=news><li>
        <span class=date>3.5.2025</span> <a href=/n/1>Roof mended</a> <img src=a.jpg></li><li>
        <span class=date>1.5.2025</span> <a href=/n/2>Door painted</a> <img src=b.jpg></li></ul>""",
        {"a": Seen("Roof mended", "News", "https://galewick.example/n/1"),
         "b": Seen("Door painted", "News", "https://galewick.example/n/2")},
    ),
    "h2 link cards in main with sidebar": (
        """<div class=layout><main><div class=post><a href=/p1><img src=a.jpg></a><h2><a href=/p1>Storm</a></h2>
        <p>Wind.</p></div><div class=post><a href=/p2><img src=b.jpg></a><h2><a href=/p2>Calm</a></h2>
        <p>None.</p></div></main><aside class=sidebar><div class=widget><h3>Author</h3><img src=me.jpg>
        <p>Pell writes.</p></div></aside></div>""",
        {"a": Seen("Storm", "", "https://galewick.example/p1"),
         "b": Seen("Calm", "", "https://galewick.example/p2")},
    ),
    "definition rows with img in th": (
        """<table><tr><th><img src=a.jpg><br>Wren</th><td>Loud</td></tr><tr><th><img src=b.jpg><br>Robin</th>
        <td>Sweet</td></tr></table>""",
        {"a": Seen("Wren"), "b": Seen("Robin")},
    ),
    "gallery captions as divs after each a": (
        """<div class=g><a href=1.jpg><img src=a.jpg></a><div class=cap>The mill</div><a href=2.jpg>
        <img src=b.jpg></a><div class=cap>The quay</div><a href=3.jpg><img src=c.jpg></a>
        <div class=cap>The dunes</div></div>""",
        {"a": Seen("The mill"), "b": Seen("The quay"), "c": Seen("The dunes")},
    ),
    "pictures then ul of captions": (
        """<div class=x><img src=a.jpg><img src=b.jpg><ul><li>Left: the mill</li><li>Right: the quay</li></ul></div>""",
        {"a": Seen()},
    ),
    "thing page long text": (
        """<main><h1>The brass bell</h1><div class=images><img src=a.jpg><img src=b.jpg></div><dl>
        <dt>Found<dd>1931<dt>Place<dd>Ebb</dl>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p>
        <p>The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. The keeper told us that the wind had turned in the night. </p></main>""",
        {"a": Seen("The brass bell", "The brass bell", "", {"Found": "1931", "Place": "Ebb"}),
         "b": Seen("The brass bell", "The brass bell", "", {"Found": "1931", "Place": "Ebb"})},
    ),
    "spanish": (
        """<h2>Novedades</h2><ul><li><a href=/1><img src=a.jpg alt=imagen></a><p>Farol rojo</p><p>12,00 €</p>
        <a class=btn href=/1>Añadir al carrito</a></li><li><a href=/2><img src=b.jpg alt=imagen></a>
        <p>Farol azul</p><p>9,00 €</p><a class=btn href=/2>Añadir al carrito</a></li></ul>""",
        {"a": Seen("Farol rojo", "Novedades", "https://galewick.example/1"),
         "b": Seen("Farol azul", "Novedades", "https://galewick.example/2")},
    ),
}  # fmt: skip
