// What is done in a page, and in each of its frames, before their own scripts run. What is learned by it is the page's
// own, under a symbol.
{
  const MOST = 5000;
  const LONGEST_DELAY = 2000;  // milliseconds: what a script puts off for longer is no answer to a screen or a button
  const { setTimeout, clearTimeout } = window;
  const learned = {
    setTimeout: (what, delay) => setTimeout.call(window, what, delay),  // which counts for nothing
    due: new Map(),  // when the scripts' timers run out that were set since the last screen or button
    opened: [],  // the addresses that they would have opened a window for
    handed: new Map(),  // where the bytes come from that they handed over as blobs, by the addresses of those
    replaced: [],  // addresses that pictures had, and those that took their place
    drawn: new WeakMap(),  // the addresses of the pictures that canvases are copies of; empty for what is more than a copy
  };
  Object.defineProperty(window, Symbol.for("pickcrate.learned"), { value: learned });

  const absolute = (address) => {
    try {
      return new URL(address, document.baseURI).href;
    } catch {
      return "";
    }
  };

  // A thumbnail gives way to its original, which may be known to nothing but a script.
  const watching = new MutationObserver((changes) => {
    for (const { target, oldValue } of changes) {
      if (!(target instanceof HTMLImageElement) || !oldValue || learned.replaced.length >= MOST) continue;
      learned.replaced.push([absolute(oldValue), target.src]);
    }
  });
  const watch = (root) => watching.observe(root, { subtree: true, attributeFilter: ["src"], attributeOldValue: true });
  watch(document);

  // What a component draws is for its visitor: closed shadow roots (DOM standard, 4.8) are opened, for us to read.
  const attach = Element.prototype.attachShadow;
  Element.prototype.attachShadow = function (options) {
    const root = attach.call(this, { ...options, mode: "open" });
    watch(root);
    return root;
  };

  // No script opens windows, which may open others in their turn.
  window.open = (address) => {
    if (address && learned.opened.length < MOST) learned.opened.push(absolute(address));
    return null;
  };

  window.setTimeout = (what, delay, ...more) => {
    const timer = setTimeout.call(window, what, delay, ...more);
    if (delay > 0 && delay <= LONGEST_DELAY && learned.due.size < MOST) learned.due.set(timer, performance.now() + Number(delay));
    return timer;
  };
  window.clearTimeout = (timer) => {
    learned.due.delete(timer);
    clearTimeout.call(window, timer);
  };

  // Of what a script takes as a blob the browser keeps no bytes: they are those of the blob.
  const sources = new WeakMap();
  const { blob } = Response.prototype;
  Response.prototype.blob = async function () {
    const bytes = await blob.call(this);
    if (this.url) sources.set(bytes, this.url);
    return bytes;
  };
  const { open } = XMLHttpRequest.prototype;
  XMLHttpRequest.prototype.open = function (...how) {
    this.addEventListener("load", () => {
      if (this.responseType === "blob" && this.response) sources.set(this.response, this.responseURL);
    });
    return open.apply(this, how);
  };
  const { createImageBitmap } = window;
  window.createImageBitmap = async (what, ...how) => {
    const bitmap = await createImageBitmap.call(window, what, ...how);
    const source = what instanceof HTMLImageElement ? what.currentSrc : sources.get(what);
    if (source && typeof how[0] !== "number") sources.set(bitmap, source);
    return bitmap;
  };

  // A canvas may show a picture as it is, or put it together of pieces of one.
  const copied = (what, where) => {
    const [width, height] = [what.naturalWidth ?? what.width, what.naturalHeight ?? what.height];
    const isWhole = where.length < 8 || (!where[0] && !where[1] && where[2] >= width && where[3] >= height);
    return (isWhole && (what instanceof HTMLImageElement ? what.currentSrc : sources.get(what))) || "";
  };
  // Whether it is drawn over all that was there: what was is gone.
  const covers = (canvas, what, where) => {
    const [x, y, width, height] = where.length < 8 ? where : where.slice(4);
    return x <= 0 && y <= 0 && x + (width ?? what.width) >= canvas.width && y + (height ?? what.height) >= canvas.height;
  };
  const { drawImage } = CanvasRenderingContext2D.prototype;
  CanvasRenderingContext2D.prototype.drawImage = function (what, ...where) {
    const { canvas } = this;
    const source = copied(what, where);
    const isBeside = !covers(canvas, what, where) && learned.drawn.has(canvas) && learned.drawn.get(canvas) !== source;
    learned.drawn.set(canvas, isBeside ? "" : source);
    return drawImage.call(this, what, ...where);
  };
  // What WebGL has drawn is there until it draws again, and no longer than it is shown (WebGL 1.0, 2.2).
  const { getContext } = HTMLCanvasElement.prototype;
  HTMLCanvasElement.prototype.getContext = function (kind, how, ...more) {
    return getContext.call(this, kind, /^webgl/.test(kind) ? { ...how, preserveDrawingBuffer: true } : how, ...more);
  };

  const { createObjectURL } = URL;
  URL.createObjectURL = (what) => {
    const address = createObjectURL.call(URL, what);
    if (sources.has(what) && learned.handed.size < MOST) learned.handed.set(address, sources.get(what));
    return address;
  };
}
