// What all that is done in a page stands on: its elements, what scrolls it, and what before.js has learned.
const MOST_ELEMENTS = 50000;
const MOST_SEEN = 5000;
// What before.js has learned: empty in a window of the user's own that was open before.
const later = (what, delay) => setTimeout(what, delay);
const nothing = { setTimeout: later, due: new Map(), opened: [], handed: new Map(), replaced: [], drawn: new WeakMap() };
const learned = window[Symbol.for("pickcrate.learned")] || nothing;
const PICTURES = "img, [style*='url(']";

// A page may have its own idea of what a Map is: that costs words, and not the visit.
const tried = (look, otherwise) => {
  try {
    return look();
  } catch {
    return otherwise;
  }
};

// The document and every open shadow root in it, outer ones first.
const roots = () => {
  const found = [document];
  for (const root of found) {
    for (const element of root.querySelectorAll("*")) if (element.shadowRoot) found.push(element.shadowRoot);
  }
  return found;
};
const all = (selector) => roots().flatMap((root) => [...root.querySelectorAll(selector)]);

const scroller = () => {
  const root = document.scrollingElement || document.documentElement;
  if (root.scrollHeight > innerHeight + 4) return root;
  let best = root, area = 0;
  for (const element of [...document.querySelectorAll("*")].slice(0, MOST_ELEMENTS)) {
    if (element.clientHeight < 200 || element.scrollHeight <= element.clientHeight + 4) continue;
    if (!/auto|scroll/.test(getComputedStyle(element).overflowY)) continue;
    const size = element.clientWidth * element.clientHeight;
    if (size > area) [best, area] = [element, size];
  }
  return best;
};

// How much of a screen a step is: upwards in what begins at its lower end (CSS flexible boxes, 5.1).
const down = (element) => (getComputedStyle(element).flexDirection === "column-reverse" ? -0.9 : 0.9);

// A wheel makes maps and viewers larger, which is not what anybody asked for.
const middle = () => document.elementFromPoint(innerWidth / 2, innerHeight / 2);
const isOfMap = (element) => !!element?.closest("canvas, [class*=map i], [id*=map i], [class*=leaflet], [class*=viewer i]");

// What scrolls within the page and is in sight, but for what scrolls the page: strips of pictures, lists in a box.
const strips = () => {
  const main = scroller();
  return all("*").slice(0, MOST_ELEMENTS).filter((element) => {
    if (element === main || element.clientWidth < 100 || element.clientHeight < 40) return false;
    const isWide = element.scrollWidth > element.clientWidth + 4;
    const isHigh = element.scrollHeight > element.clientHeight + 4;
    if ((!isWide && !isHigh) || /^(TEXTAREA|PRE|SELECT|INPUT|HTML|BODY)$/.test(element.tagName)) return false;
    const box = element.getBoundingClientRect();
    if (box.bottom <= 0 || box.top >= innerHeight) return false;
    const style = getComputedStyle(element);
    return (isWide && /auto|scroll/.test(style.overflowX)) || (isHigh && /auto|scroll/.test(style.overflowY));
  });
};

const isShown = (element) => element.getClientRects().length > 0 && getComputedStyle(element).visibility !== "hidden";
const folded = (words) => String(words || "").replace(/\s+/g, " ").trim();

// A frame has been drawn, so that the page was told what is in sight (Intersection Observer, 3.4), and a while has passed.
const after = async (pause) => {
  const sleep = (milliseconds) => new Promise((done) => learned.setTimeout(done, milliseconds));
  const drawn = new Promise((done) => requestAnimationFrame(done));
  await Promise.race([drawn, sleep(1000)]);
  const told = new Promise((done) => {
    const heard = (_, observer) => done(observer.disconnect());
    tried(() => new IntersectionObserver(heard).observe(document.documentElement));
  });
  await Promise.race([told, sleep(1000)]);
  await sleep(pause);
};
