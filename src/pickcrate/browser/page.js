// What is done in a page, a function by its name: called as [name, argument], in the page and in each of its frames.
// What it comes to is the result's value: the result itself is always there, so that a wait for it ends at once.
async ([name, argument]) => {
  const CONSENT = /cookie|consent|gdpr|rgpd|dsgvo|privacy|datenschutz|einwilligung/i;
  const NEVER = /\b(sign|log) ?(in|up|out|off)\b|\b(buy|order|pay|checkout|delete|remove|subscribe|unsubscribe|report|send|submit|post|follow|share)\b|kaufen|bestellen|löschen|anmelden|abmelden|acheter|supprimer|comprar|eliminar/i;
  const MOST_ELEMENTS = 50000;
  const MOST_OF_BLOBS = 20000000;
  const LEAST_CANVAS = 32;  // pixels
  const MOST_SEEN = 5000;
  const LONGEST_CARD = 600;  // characters of what is said around a picture
  const LONGEST_MARKUP = 20000;  // and of the markup
  const FARTHEST_AROUND = 6;
  const LONGEST_LABEL = 40;
  const LONGEST_ADDRESS = 4096;
  const SEEN = Symbol.for("pickcrate.seen");
  const A_PICTURE = /\.(avif|bmp|gif|heic|jpe?g|jxl|png|tiff?|webp)([?#]|$)/i;
  // What before.js has learned: empty in a window of the user's own that was open before.
  const later = (what, delay) => setTimeout(what, delay);
  const nothing = { setTimeout: later, due: new Map(), opened: [], handed: new Map(), replaced: [], drawn: new WeakMap() };
  const learned = window[Symbol.for("pickcrate.learned")] || nothing;
  const PICTURES = "img, [style*='url(']";
  const BACKGROUND = /url\(["']?([^"')]+)/;
  const SENDS = "button:not([type=button i]):not([type=reset i]), input[type=submit i], input[type=image i]";
  const PRESSABLE =
    "button, a, summary, label, input:is([type=button i], [type=submit i], [type=image i]), [onclick], [tabindex='0'], " +
    ["button", "link", "tab", "menuitem", "option", "radio", "switch"].map((role) => `[role=${role}]`).join(", ");
  const LONGEST_NAME = 80;
  const MOST_BESIDE = 50;

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

  // What a page has shown. Long lists let go of what is out of sight, and a slide gives way to the next one: their
  // pictures were loaded, but what was said of them would be lost. Kept in a document of its own, which loads nothing.
  const seen = () =>
    (document[SEEN] ||= {
      addresses: new Set(),
      cards: new Map(),
      store: document.implementation.createHTMLDocument(""),
      pressed: new Set(),  // the last one last
      chosen: "",  // what that is called, if it is one of several to choose from
      isSwatch: false,  // whether it is no choice by its markup: it names what it brings if that is one picture
      named: new WeakSet(),  // the pictures that are called after it
      before: new Set(),  // the addresses that were there when that was pressed
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

  const isShown = (element) => element.getClientRects().length > 0 && getComputedStyle(element).visibility !== "hidden";
  const folded = (words) => String(words || "").replace(/\s+/g, " ").trim();
  // All that an element may be called by: Accessible Name and Description Computation 1.2, 4.3.2, but each by itself.
  const called = (element) => {
    const labels = (element.getAttribute("aria-labelledby") || "").split(/\s+/).filter(Boolean);
    const said = labels.map((id) => element.getRootNode().querySelector(`[id="${CSS.escape(id)}"]`)?.textContent);
    const drawn = [...element.querySelectorAll("img[alt], svg title")].map((one) => one.alt || one.textContent);
    const own = [element.innerText || element.value, element.getAttribute("aria-label"), element.title, element.alt];
    return [...own, ...said, ...(drawn.length === 1 ? drawn : [])].map(folded).filter(Boolean);
  };
  const says = (element) => called(element)[0] || "";
  // Whether an element lies in no form that it might send, or in one that is for something else: many servers put a
  // form around all that a page has. What nobody sends by itself may be pressed in any but one that signs in.
  const sendsNothing = (element) => {
    const form = element.form || element.closest("form");
    if (!form) return true;
    const isWholePage = form.querySelectorAll("*").length > 0.8 * document.body.querySelectorAll("*").length;
    const signsIn = form.querySelector("input[type=password]") !== null;
    if (!element.matches(SENDS)) return isWholePage || !signsIn;
    return !signsIn && (form.method !== "post" || isWholePage);
  };
  const isChoice = (element) => {
    const control = element instanceof HTMLLabelElement ? element.control : element;
    return !!control?.matches("option, input[type=radio i], [role=option], [role=radio]");
  };
  const may = (element) => {
    const inSight = element instanceof HTMLOptionElement ? element.closest("select") || element : element;
    if (!isShown(inSight) || element.disabled || element.getAttribute("aria-disabled") === "true") return false;
    return !called(element).some((said) => NEVER.test(said.slice(0, LONGEST_NAME))) && sendsNothing(element);
  };

  const PAGER = "[class*=pagin i], [id*=pagin i], [aria-label*=pagin i], [class~=pager i]";
  const HOLDS_A_PAGER = 3;  // levels around what leads on
  // Whether something leads through the pages of a list: it is in what is called so, or beside the numbers of pages,
  // with no picture among them.
  // ``known`` says it of the elements that were looked at.
  const holdsNumbers = (around, known) => {
    if (!known.has(around)) {
      const labels = [...around.querySelectorAll(PRESSABLE)].slice(0, MOST_BESIDE).map(says);
      known.set(around, labels.filter((label) => /^(\p{L}{1,10} )?\d{1,5}$/u.test(label)).length > 1);
    }
    return known.get(around);
  };
  const isOfPager = (element, known) => {
    if (element.closest(PAGER)) return true;
    let around = element.parentElement;
    for (let level = 0; around && level < HOLDS_A_PAGER && !around.querySelector("img"); level += 1) {
      if (holdsNumbers(around, known)) return true;
      around = around.parentElement;
    }
    return false;
  };
  const leadsAway = (element) => /^https?:/.test(element.href || "") && element.href.split("#")[0] !== location.href.split("#")[0];
  // What is called so, rather than something longer; what leads nowhere else, rather than a link; and the innermost.
  const bestNamed = (elements, name) => {
    const isCalled = (element) => called(element).some((said) => said.toLowerCase() === name);
    const ranks = elements.map((element) => (isCalled(element) ? 0 : 2) + leadsAway(element));
    const least = ranks.reduce((one, other) => Math.min(one, other), Infinity);
    const best = elements.filter((_, place) => ranks[place] === least);
    return best.find((element, place) => !best[place + 1] || !element.contains(best[place + 1]));
  };
  // Elements with few words in them, each text looked at once: inner ones come first.
  const brief = () => {
    const lengths = new Map();
    const add = (element, length) => lengths.set(element, (lengths.get(element) || 0) + length);
    for (const element of all("*").slice(0, MOST_ELEMENTS).reverse()) {
      for (const node of element.childNodes) if (node.nodeType === Node.TEXT_NODE) add(element, node.data.trim().length);
      if (element.parentElement) add(element.parentElement, lengths.get(element) || 0);
    }
    return [...lengths].filter(([, length]) => length && length <= LONGEST_NAME).map(([element]) => element);
  };
  // The innermost element with these words: any may have a script that waits for a click on it.
  const written = (name) => {
    const says = (element) => folded(element.textContent).toLowerCase().includes(name);
    const found = tried(brief, []).filter((element) => says(element) && may(element));
    return found.filter((element) => ![...element.children].some(says)).pop();
  };

  // A list to choose from stands for what may be chosen there.
  const choices = (element) =>
    element instanceof HTMLSelectElement ? [...element.options].filter((option) => option.value) : [element];
  const selected = (selector) => tried(() => all(selector).flatMap(choices).filter(may), []);  // it may be no selector
  const unpressed = (selector) => selected(selector).filter((element) => !seen().pressed.has(element));

  // What an element is called that no other has for a name of all that a selector selects: a swatch, a tab, a thumbnail.
  const swatch = (element, selector) => {
    const label = says(element);
    const labels = selected(selector).map(says);
    const isOwn = labels.length > 1 && labels.filter((one) => one === label).length === 1;
    return isOwn && label.length <= LONGEST_LABEL && /\p{L}{2}/u.test(label) ? label : "";
  };

  // By what it is called, or by a few words with something to press. What holds the page's matter, or leads through
  // the site, is none, whatever it says of cookies.
  const asksForConsent = (element) => {
    if (/^(HEADER|NAV|FOOTER|MAIN|ARTICLE)$/.test(element.tagName)) return false;
    if (element.querySelector("main, article, h1, nav") || element.querySelectorAll("img").length > 3) return false;
    const names = `${element.id} ${element.getAttribute("class") || ""} ${element.getAttribute("aria-label") || ""}`;
    const text = element.innerText || "";
    if (text.length > 6000) return false;
    if (CONSENT.test(names)) return true;
    return text.length < 1500 && CONSENT.test(text) && element.querySelector("button, [role=button], input") !== null;
  };

  const serialised = () => {
    const top = document.documentElement;
    const shell = top.cloneNode(false).outerHTML;
    const end = shell.lastIndexOf("</");
    const shadows = roots().slice(1);
    const inner = top.getHTML ? top.getHTML({ shadowRoots: shadows }) : top.innerHTML;
    return (document.doctype ? "<!doctype html>" : "") + shell.slice(0, end) + inner + shell.slice(end);
  };
  const rules = (sheet) => {
    try {
      return [...sheet.cssRules].map((rule) => rule.cssText).join("\n");
    } catch {
      return "";  // of another site: it was loaded, and is read from there
    }
  };
  // Styles that scripts made are in no markup: they are written into it.
  const dressed = (root) => {
    for (const style of root.querySelectorAll("style")) {
      if (!style.textContent.trim() && style.sheet && style.sheet.cssRules.length) style.textContent = rules(style.sheet);
    }
    for (const sheet of root.adoptedStyleSheets || []) {
      const style = document.createElement("style");
      style.textContent = rules(sheet);
      (root === document ? document.head || document.documentElement : root).append(style);
    }
  };
  const asData = async (blob) =>
    new Promise((done) => {
      const reader = new FileReader();
      reader.onload = () => done(reader.result);
      reader.onerror = () => done("");
      reader.readAsDataURL(blob);
    });

  // What a canvas shows: the address of the picture that it is a copy of, or else what is drawn on it, if anything is.
  // What pictures of other sites are drawn on is closed to scripts (HTML standard, 4.12.5.1.20), and is told by those.
  const drawnOn = (canvas) => {
    if (!isShown(canvas) || Math.min(canvas.width, canvas.height) < LEAST_CANVAS) return "";
    const source = learned.drawn.get(canvas);
    if (/^https?:/.test(source)) return source;
    const small = document.createElement("canvas");
    small.width = small.height = LEAST_CANVAS;
    const context = small.getContext("2d");
    context.drawImage(canvas, 0, 0, LEAST_CANVAS, LEAST_CANVAS);
    const pixels = new Uint32Array(context.getImageData(0, 0, LEAST_CANVAS, LEAST_CANVAS).data.buffer);
    return pixels.every((pixel) => pixel === pixels[0]) ? "" : canvas.toDataURL();
  };

  const pairs = (found) =>
    [...found].slice(0, MOST_SEEN).map((pair) => pair.slice(0, 2).map((address) => String(address).slice(0, LONGEST_ADDRESS)));

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

  const functions = {
    ping: () => true,
    // A screen on; what that makes the page do begins within the pause.
    scroll: async (pause) => {
      remember();
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
    measure: () => {
      remember();
      return [all("*").length, scroller().scrollHeight, seen().addresses.size];
    },
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
    // Given as {pager: words} it is what says so beside the numbers of pages.
    button: (wanted) => {
      const name = folded(wanted.pager ?? wanted).toLowerCase();
      const isSo = (said) => said.length <= LONGEST_NAME + name.length && said.toLowerCase().includes(name);
      const calledSo = all(PRESSABLE).filter((element) => called(element).some(isSo));
      const named = wanted.pager ? calledSo.filter((element) => isOfPager(element, new Map())) : calledSo;
      const found = named.length ? bestNamed(named.filter(may), name) : unpressed(wanted)[0] || selected(wanted)[0] || written(name);
      if (!found || (isChoice(found) && seen().pressed.has(found))) return null;  // choosing it again brings nothing
      seen().pressed.delete(found);
      seen().pressed.add(found);
      seen().before = new Set(all(PICTURES).map(addressOf));
      seen().isSwatch = !isChoice(found) && !named.length;
      if (isChoice(found)) seen().chosen = says(found.labels?.[0] || found);
      else seen().chosen = seen().isSwatch ? swatch(found, wanted) : "";
      learned.due.clear();
      learned.opened.length = 0;
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
    press: () => [...seen().pressed].pop().click(),
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
      for (const canvas of all("canvas:not([src])")) {
        const drawn = tried(() => drawnOn(canvas), "");
        room -= drawn.length;
        if (drawn && room > 0) canvas.setAttribute("src", drawn);
      }
      roots().forEach(dressed);
      const back = tried(bringBack, []);
      const markup = serialised();
      if (!isKept) back.forEach((card) => card.remove());
      return markup;
    },
  };
  return { value: await functions[name](argument) };
}
