// What a page has shown. Long lists let go of what is out of sight, and a slide gives way to the next one: their
// pictures were loaded, but what was said of them would be lost. Kept in a document of its own, which loads nothing.
const LONGEST_CARD = 600;  // characters of what is said around a picture
const LONGEST_MARKUP = 20000;  // and of the markup
const FARTHEST_AROUND = 6;
const SEEN = Symbol.for("pickcrate.seen");
const BACKGROUND = /url\(["']?([^"')]+)/;
const seen = () =>
  (document[SEEN] ||= {
    addresses: new Set(),
    cards: new Map(),
    store: document.implementation.createHTMLDocument(""),
    pressed: new Set(),  // the last one last
    isClicked: false,  // whether a click has come to that
    chosen: "",  // what that is called, if it is one of several to choose from
    isSwatch: false,  // whether it is no choice by its markup: it names what it brings if that is one picture
    named: new WeakSet(),  // the pictures that are called after it
    before: new Set(),  // the addresses that were there when that was pressed
    drawn: new Map(),  // what canvases have shown, by what tells it from others
    roomForDrawn: MOST_DRAWN,
  });
const addressOf = (picture) => {
  if (picture instanceof HTMLImageElement) return picture.currentSrc || picture.src;
  const background = BACKGROUND.exec(picture.style?.backgroundImage || "");
  return background ? tried(() => new URL(background[1], document.baseURI).href, "") : "";
};
// Whether an address still leads there: a script may have given the page another since.
const leadsTo = (raw, address) => tried(() => new URL(raw, document.baseURI).href === address, false);
// The largest element around a picture that holds no other, and few words. ``known`` says it of those looked at.
const cardOf = (picture, known) => {
  const isOne = (element) => {
    if (!known.has(element)) {
      const holdsOne = element.querySelectorAll(PICTURES).length === (element.matches(PICTURES) ? 0 : 1);
      known.set(element, holdsOne && element.textContent.length <= LONGEST_CARD);
    }
    return known.get(element);
  };
  let card = picture;
  for (let steps = 0; steps < FARTHEST_AROUND; steps += 1) {
    const outer = card.parentElement;
    if (!outer || /^(HTML|BODY|MAIN|UL|OL|TABLE|TBODY)$/.test(outer.tagName) || !isOne(outer)) break;
    card = outer;
  }
  return card;
};
const wordsOf = (card, picture) =>
  folded([picture.alt, picture.title, picture.ariaLabel, card.textContent].filter(Boolean).join(" "));
// A picture that came in another's place as something was chosen is of that, and mostly nothing else says so.
const nameAfterChoice = () => {
  const { before, chosen, isSwatch, named } = seen();
  if (!chosen) return;
  const isNew = (picture) => /^https?:/.test(addressOf(picture)) && !before.has(addressOf(picture));
  const came = all(PICTURES).filter(isNew);
  if (isSwatch && new Set(came.map(addressOf)).size !== 1) return;
  for (const picture of came) {
    if (picture.title && !named.has(picture)) continue;
    picture.title = chosen;
    named.add(picture);
  }
};
const lookedAt = () => {
  const { addresses, cards, store } = seen();
  const known = new Map();
  nameAfterChoice();
  for (const picture of all(PICTURES)) {
    const address = addressOf(picture);
    if (!/^https?:/.test(address) || addresses.size >= MOST_SEEN) continue;
    addresses.add(address);
    if (cards.has(address)) continue;
    const card = cardOf(picture, known);
    const words = wordsOf(card, picture);
    if (!words || card.outerHTML.length > LONGEST_MARKUP) continue;
    cards.set(address, { words, around: card.parentNode, copy: store.importNode(card, true) });
  }
};
const remember = () => tried(lookedAt);
// Puts what has gone back before what followed it, and returns what was put there. What is said of another picture
// now is none: that took its place, as an original does a placeholder's.
const bringBack = () => {
  const { cards } = seen();
  const known = new Map();
  const there = new Map(all(PICTURES).map((picture) => [addressOf(picture), picture]));
  const said = new Set([...there.values()].map((picture) => wordsOf(cardOf(picture, known), picture)));
  const following = new Map();
  const back = [];
  for (const [address, { words, around, copy }] of [...cards].reverse()) {
    const picture = there.get(address);
    if (picture) following.set(around, cardOf(picture, known));
    if (picture || said.has(words)) continue;
    const own = copy.matches("img[src]") ? copy : copy.querySelector("img[src]");
    if (own && !leadsTo(own.getAttribute("src"), address)) own.setAttribute("src", address);
    const place = around.isConnected ? around : document.body;
    const next = following.get(place);
    place.insertBefore(copy, next && next.parentNode === place ? next : null);
    following.set(place, copy);
    back.push(copy);
  }
  return back;
};
