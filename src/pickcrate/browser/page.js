// What is done in a page, a function by its name: called as [name, argument], in the page and in each of its frames.
// What it comes to is the result's value: the result itself is always there, so that a wait for it ends at once.
const A_PICTURE = /\.(avif|bmp|gif|heic|jpe?g|jxl|png|tiff?|webp)([?#]|$)/i;
const functions = {
  ping: () => true,
  // A screen on; what that makes the page do begins within the pause.
  scroll: async (pause) => {
    remember();
    await rememberDrawn();
    learned.due.clear();
    const element = scroller();
    const before = element.scrollTop;
    const height = element.scrollHeight;
    element.scrollTo({ top: before + down(element) * element.clientHeight, behavior: "instant" });
    const isAtEnd = Math.abs(element.scrollTop) + element.clientHeight >= height - 4 || element.scrollTop === before;
    await after(pause);
    return { isAtEnd, height, mayTurn: height <= innerHeight + 4 && !isOfMap(middle()) };
  },
  // A screen on in all that scrolls within the page; how many have moved.
  scrollInside: async (pause) => {
    remember();
    const moved = strips().filter((element) => {
      const { scrollLeft, scrollTop } = element;
      const forward = getComputedStyle(element).direction === "rtl" ? -0.9 : 0.9;
      const top = down(element) * element.clientHeight;
      element.scrollBy({ left: forward * element.clientWidth, top, behavior: "instant" });
      return element.scrollLeft !== scrollLeft || element.scrollTop !== scrollTop;
    });
    if (moved.length) await after(pause);
    return moved.length;
  },
  isLonger: () => scroller().scrollHeight > innerHeight + 4 || strips().length > 0,
  height: async (pause) => {
    await after(pause);
    return scroller().scrollHeight;
  },
  measure: async () => {
    remember();
    await rememberDrawn();
    return [all("*").length, scroller().scrollHeight, seen().addresses.size, seen().drawn.size];
  },
  // How many drawings there was no room for.
  undrawn: () => [...seen().drawn.values()].filter(({ drawing }) => !drawing).length,
  hideOverlays: () => {
    let hidden = 0;
    for (const element of all("body *").slice(0, MOST_ELEMENTS)) {
      const style = getComputedStyle(element);
      if (style.position !== "fixed" && style.position !== "sticky" && element.tagName !== "DIALOG") continue;
      if (!asksForConsent(element)) continue;
      element.style.setProperty("display", "none", "important");
      hidden += 1;
    }
    if (!hidden) return 0;
    for (const element of [document.documentElement, document.body]) {
      if (element && getComputedStyle(element).overflowY === "hidden") {
        element.style.setProperty("overflow", "visible", "important");
      }
    }
    return hidden;
  },
  // What is to be pressed next: what says so, again and again; of what a selector selects, one after the other first.
  // Of the numbers of pages it is what says just that, beside others.
  button: ({ said: wanted, isOfPager: isPaging }) => {
    const fold = foldingFor(wanted);
    const name = fold(folded(wanted));
    const isSo = (said) => said.length <= LONGEST_NAME + name.length && fold(said).includes(name);
    const isJustSo = (said) => fold(said) === name;
    const calledSo = all(PRESSABLE).filter((element) => called(element).some(isPaging ? isJustSo : isSo));
    const known = new Map();
    const named = isPaging ? calledSo.filter((element) => isOfPager(element, known)) : calledSo;
    const otherwise = () => (isPaging ? null : unpressed(wanted)[0] || selected(wanted)[0] || written(name, fold));
    const found = named.length ? bestNamed(named.filter(may), name, fold) : otherwise();
    if (!found || (isChoice(found) && seen().pressed.has(found))) return null;  // choosing it again brings nothing
    seen().pressed.delete(found);
    seen().pressed.add(found);
    seen().before = new Set(all(PICTURES).map(addressOf));
    seen().isSwatch = !isChoice(found) && !named.length;
    if (isChoice(found)) seen().chosen = says(found.labels?.[0] || found);
    else seen().chosen = seen().isSwatch ? swatch(found, wanted) : "";
    learned.due.clear();
    learned.opened.length = 0;
    seen().isClicked = false;
    found.addEventListener("click", () => (seen().isClicked = true), { capture: true, once: true });
    return found;
  },
  // How long it takes until all is done that was put off since the last screen or button, and all has moved that
  // does not move for ever; in milliseconds.
  due: () => {
    const timers = [...learned.due.values()].map((time) => time - performance.now());
    const moving = document.getAnimations().filter((animation) => animation.playState === "running");
    const ends = moving.map((animation) => animation.effect.getComputedTiming().endTime - animation.currentTime);
    return Math.max(0, ...[...timers, ...ends].filter(Number.isFinite));
  },
  // What lies above may be shown by now, or was passed over: the address of the page may lead to a part of it.
  toTop: () => scroller().scrollTo({ top: 0, behavior: "instant" }),
  // What those say that may be pressed and lead nowhere else: buttons, and what the page draws a hand over; and
  // whether each leads through the pages of a list.
  labels: () => {
    const hasHand = (element) => !element.childElementCount && getComputedStyle(element).cursor === "pointer";
    const others = all("div, span, p, li, b, strong").slice(0, MOST_SEEN).filter(hasHand);
    const buttons = all(PRESSABLE).slice(0, MOST_SEEN);
    const found = [...buttons, ...others].filter((element) => !leadsAway(element) && may(element));
    const short = found.map((element) => [says(element), element]).filter(([said]) => said && said.length <= LONGEST_LABEL);
    const known = new Map();
    return short.map(([said, element]) => [said, isOfPager(element, known)]);
  },
  // One that a page makes anew each time is the same one.
  isLeft: (wanted) => selected(wanted).length > 1 && unpressed(wanted).length > 0,
  // Press it as a script would, and tell whether that was needed: a page that is busy answers a click late.
  press: () => {
    if (seen().isClicked) return false;
    [...seen().pressed].pop().click();
    return true;
  },
  // Whether what is to be pressed was chosen from a list, which the browser draws and nobody can press.
  choose: () => {
    const option = [...seen().pressed].pop();
    const list = option instanceof HTMLOptionElement && option.closest("select");
    if (!list) return false;
    option.selected = true;
    for (const kind of ["input", "change"]) list.dispatchEvent(new Event(kind, { bubbles: true }));
    return true;
  },
  // The one larger picture that came as something was pressed is the original of the picture in that.
  opened: (attribute) => {
    const { pressed, before } = seen();
    const element = [...pressed].pop();
    const own = element.matches("img") ? [element] : [...element.querySelectorAll("img")];
    if (own.length !== 1 || own[0].hasAttribute(attribute)) return;
    const isLarger = (image) => image.naturalWidth > own[0].naturalWidth && /^https?:/.test(addressOf(image));
    const shown = all("img").filter(isLarger).map(addressOf).filter((address) => !before.has(address));
    const came = new Set([...shown, ...learned.opened.filter((address) => A_PICTURE.test(address))]);
    if (came.size === 1) own[0].setAttribute(attribute, [...came][0]);
  },
  handed: () => pairs(learned.handed),
  replaced: () => pairs(learned.replaced),
  // What was put back leaves again, unless it is to be kept with the page.
  document: async (isKept) => {
    // What was loaded before a script gave the page another address was loaded from where that led.
    const first = performance.getEntriesByType("navigation")[0]?.name;
    for (const image of first && first !== location.href ? all("img[src]:not([srcset])") : []) {
      const led = tried(() => new URL(image.getAttribute("src"), first).href, "");
      if (led !== image.src && led === image.currentSrc) image.src = led;
    }
    let room = MOST_OF_BLOBS;
    for (const element of all("img[src^='blob:'], source[src^='blob:']")) {
      try {
        const blob = await (await fetch(element.src)).blob();
        room -= blob.size;
        if (room > 0 && blob.type.startsWith("image/")) element.setAttribute("src", await asData(blob));
      } catch {
        continue;  // it is gone already
      }
    }
    await rememberDrawn();
    const back = tried(writeDrawn, []);
    roots().forEach(dressed);
    back.push(...tried(bringBack, []));
    const markup = serialised();
    if (!isKept) back.forEach((card) => card.remove());
    return markup;
  },
};
return { value: await functions[name](argument) };
