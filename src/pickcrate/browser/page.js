// What is done in a page, a function by its name: called as [name, argument], in the page and in each of its frames.
// What it comes to is the result's value: the result itself is always there, so that a wait for it ends at once.
async ([name, argument]) => {
  const CONSENT = /cookie|consent|gdpr|rgpd|dsgvo|privacy|datenschutz|einwilligung/i;
  const NEVER = /\b(sign|log) ?(in|up|out|off)\b|\b(buy|order|pay|checkout|delete|remove|subscribe|unsubscribe|report|send|submit|post|follow|share)\b|kaufen|bestellen|löschen|anmelden|abmelden|acheter|supprimer|comprar|eliminar/i;
  const MOST_ELEMENTS = 50000;
  const MOST_OF_BLOBS = 20000000;

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

  const isShown = (element) => element.getClientRects().length > 0 && getComputedStyle(element).visibility !== "hidden";
  const says = (element) => {
    const words = element.innerText || element.value || "";
    return (words.trim() || element.getAttribute("aria-label") || element.title || "").replace(/\s+/g, " ").trim();
  };
  const may = (element) => {
    if (!isShown(element) || element.disabled || element.getAttribute("aria-disabled") === "true") return false;
    if (NEVER.test(says(element).slice(0, 80))) return false;
    const form = element.form || element.closest("form");
    if (!form) return true;
    return form.method !== "post" && !form.querySelector("input[type=password]");
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

  // Two frames have been drawn, so that the page knows what is in sight, and a while has passed.
  const after = async (pause) => {
    const sleep = (milliseconds) => new Promise((done) => setTimeout(done, milliseconds));
    const frame = () => Promise.race([new Promise((done) => requestAnimationFrame(done)), sleep(1000)]);
    await frame();
    await frame();
    await sleep(pause);
  };

  const functions = {
    ping: () => true,
    // A screen on; what that makes the page do begins within the pause.
    scroll: async (pause) => {
      const element = scroller();
      const before = element.scrollTop;
      const height = element.scrollHeight;
      element.scrollTo({ top: before + 0.9 * element.clientHeight, behavior: "instant" });
      const isAtEnd = element.scrollTop + element.clientHeight >= height - 4;
      await after(pause);
      return { isAtEnd, height };
    },
    height: async (pause) => {
      await after(pause);
      return scroller().scrollHeight;
    },
    measure: () => {
      const elements = all("*");
      return [document.images.length, elements.length, scroller().scrollHeight];
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
    button: (wanted) => {
      const folded = wanted.replace(/\s+/g, " ").trim().toLowerCase();
      const pressable = "button, [role=button], a, input[type=button], input[type=submit], summary, [onclick]";
      const named = all(pressable).filter((element) => says(element).toLowerCase().includes(folded));
      let found = named.filter(may);
      if (!found.length && !named.length) {
        try {
          found = all(wanted).filter(may);
        } catch {
          found = [];
        }
      }
      return found[0] || null;
    },
    document: async () => {
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
      roots().forEach(dressed);
      return serialised();
    },
  };
  return { value: await functions[name](argument) };
}
