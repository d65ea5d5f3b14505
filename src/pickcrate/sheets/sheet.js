// What a page said is set as text, never as markup; the policy in the head allows this script and nothing else.
const data = JSON.parse(document.getElementById("pictures").textContent);
const $ = (id) => document.getElementById(id);
const make = (tag, about = {}, ...inside) => {
  const element = document.createElement(tag);
  for (const [name, value] of Object.entries(about)) {
    if (name in element && name !== "role") element[name] = value;
    else element.setAttribute(name, value);
  }
  element.append(...inside);
  return element;
};
const grouped = (number) => number.toLocaleString("en");

// --- the criteria, as pickcrate's own: sift/ranges.py and sift/patterns.py ---

const POWERS = { "": 0, k: 1, m: 2, g: 3 };
const scaled = (text) => /^(\d+(?:\.\d+)?)\s*(?:([kmg])(i?))?(px|p|b)?$/i.exec(text);
const bad = (text) => { throw new Error(`“${text}” is not understood`); };
const READ = {
  side(text) {
    const match = scaled(text);
    return match && !match[2] && /^(px)?$/i.test(match[4] ?? "") ? Number(match[1]) : bad(text);
  },
  pixels(text) {
    const match = scaled(text);
    if (!match || match[3] || /^b$/i.test(match[4] ?? "")) bad(text);
    return Number(match[1]) * 1000 ** POWERS[(match[2] ?? "").toLowerCase()];
  },
  bytes(text) {
    const match = scaled(text);
    if (!match || !/^b?$/i.test(match[4] ?? "")) bad(text);
    return Number(match[1]) * (match[3] ? 1024 : 1000) ** POWERS[(match[2] ?? "").toLowerCase()];
  },
  ratio(text) {
    const match = /^(\d+(?:\.\d+)?)\s*[:/]\s*(\d+(?:\.\d+)?)$/.exec(text);
    if (match && Number(match[2])) return Number(match[1]) / Number(match[2]);
    return /^\d+(?:\.\d+)?$/.test(text) ? Number(text) : bad(text);
  },
};

function range(text, kind) {
  const at = text.indexOf("..");
  const ends = at < 0 ? [text] : [text.slice(0, at), text.slice(at + 2)];
  const [low, high] = ends.map((end) => (end.trim() ? READ[kind](end.trim()) : null));
  if (low === null && (high ?? null) === null) bad(text);
  if (at < 0) {
    const slack = kind === "ratio" ? low * 0.01 : 0;
    return { low: low - slack, high: low + slack };
  }
  if (low !== null && high !== null && low > high) throw new Error(`“${text}” is upside down`);
  return { low, high };
}
const holds = ({ low, high }, value) => (low === null || value >= low) && (high === null || value <= high);

function pattern(text) {
  if (text.startsWith("re:")) return new RegExp(text.slice(3), "is");
  const fold = foldingFor(text);
  const pieces = text.split("*").map((part) => fold(part).replace(/[.*+?^${}()|[\]\\]/g, "\\$&"));
  const wanted = new RegExp(pieces.length > 1 ? `^${pieces.join(".*")}$` : pieces[0], "s");
  return { test: (said) => wanted.test(fold(said)) };
}

function shapeOf({ width, height }) {
  if (!width || !height) return null;
  if (Math.abs(width - height) <= 0.03 * Math.max(width, height)) return "square";
  return width > height ? "landscape" : "portrait";
}
const listed = (text) => text.split(",").map((part) => part.trim().toLowerCase()).filter(Boolean);
const measured = (kind, value) => (text) => {
  const wanted = range(text, kind);
  return (p) => { const known = value(p.row); return known === null ? null : holds(wanted, known); };
};
const product = (row) => (row.width && row.height ? row.width * row.height : null);
const quotient = (row) => (row.width && row.height ? row.width / row.height : null);
const among = (value) => (text) => {
  const wanted = listed(text);
  return (p) => { const known = value(p); return known === null ? null : wanted.includes(known); };
};
const places = (text) => listed(text).map((name) => (data.places.includes(name) ? name : bad(name)));
const types = (text) => listed(text).map((spelling) => data.types[spelling] ?? bad(spelling));
const amongTypes = (text) => {
  const wanted = types(text);
  return (p) => (p.row.type === null ? null : wanted.includes(p.row.type));
};
const TESTS = {
  "found-in": { example: "img, css", test: (text) => { const wanted = places(text); return (p) => p.kinds.some((kind) => wanted.includes(kind)); } },
  hidden: { choices: ["keep", "drop"], test: (text) => (p) => text !== "drop" || !p.row.hidden },
  furniture: { choices: ["keep", "drop"], test: (text) => (p) => text !== "drop" || !p.row.furniture },
  url: { example: "kites/*", test: (text) => { const wanted = pattern(text); return (p) => p.addresses.some((a) => wanted.test(a)); } },
  "not-url": { example: "logo", test: (text) => { const wanted = pattern(text); return (p) => ![p.row.url, p.readable].some((a) => wanted.test(a)); } },
  text: { example: "delta", test: (text) => { const wanted = pattern(text); return (p) => p.words.some((w) => wanted.test(w)); } },
  licence: { example: "CC-BY*", test: (text) => {
    const wanted = pattern(text);
    return (p) => p.licences.length ? p.licences.some((name) => wanted.test(name)) : null;
  } },
  "not-text": { example: "banner", test: (text) => { const wanted = pattern(text); return (p) => !p.words.some((w) => wanted.test(w)); } },
  type: { example: "jpeg, png", test: amongTypes },
  shape: { choices: ["", "landscape", "portrait", "square"], test: among((p) => shapeOf(p.row)) },
  width: { example: "800..", test: measured("side", (row) => row.width) },
  height: { example: "..2000", test: measured("side", (row) => row.height) },
  pixels: { example: "0.5MP..", test: measured("pixels", product) },
  ratio: { example: "4:3..16:9", test: measured("ratio", quotient) },
  bytes: { example: "20kB..5MB", test: measured("bytes", (row) => row.bytes) },
};
// In the order in which pickcrate holds them against a picture.
const FILTERS = Object.fromEntries(data.criteria.filter((name) => name in TESTS).map((name) => [name, TESTS[name]]));

// --- state ---

const pictures = data.pictures.map((picture, place) => ({ ...picture, place, ticked: picture.row.pick, tile: null }));
let filters = [];
let shown = [];
let current = null;

const isIn = (p) => p.out === "";
const picks = () => pictures.filter((p) => p.ticked && isIn(p));

function readFilters() {
  const wrong = [];
  filters = [];
  for (const [name, filter] of Object.entries(FILTERS)) {
    const box = filter.box;
    const text = box.value.trim();
    box.removeAttribute("aria-invalid");
    if (!text || (filter.choices && text === filter.choices[0])) continue;
    try {
      filters.push([name, filter.test(text), text]);
    } catch (error) {
      box.setAttribute("aria-invalid", "true");
      wrong.push(`${name}: ${error.message}; for example ${filter.example}`);
    }
  }
  $("wrong").textContent = wrong.join(" · ");
}

// Each picture with the first criterion that drops it: the order's own, then the boxes', then the search.
function sift() {
  const said = $("search").value.trim();
  const fold = foldingFor(said);
  const search = fold(said);
  const isSought = (p) => [...p.words, ...p.addresses, p.row.name ?? ""].some((text) => fold(text).includes(search));
  const steps = new Map();
  const step = (name) => steps.get(name) ?? steps.set(name, { dropped: 0, unsure: 0 }).get(name);
  for (const name of data.order) step(name);
  for (const [name] of filters) step(name);
  for (const p of pictures) {
    p.out = p.dropped;
    if (p.out) { step(p.out).dropped += 1; continue; }
    for (const [name, test] of filters) {
      const kept = test(p);
      if (kept === null) step(name).unsure += 1;
      if (kept === false) { p.out = name; step(name).dropped += 1; break; }
    }
    if (!p.out && search && !isSought(p)) {
      p.out = "search";
      step("search").dropped += 1;
    }
  }
  return steps;
}

function showFunnel(steps) {
  const parts = [make("b", {}, `${grouped(pictures.length)} found`)];
  for (const [name, { dropped, unsure }] of steps) {
    parts.push(` → ${name} −${grouped(dropped)}${unsure ? ` (${grouped(unsure)} not known)` : ""}`);
  }
  parts.push(" → ", make("b", {}, `${grouped(pictures.filter(isIn).length)} in`));
  $("funnel").replaceChildren(...parts);
}

// --- tiles ---

const watcher = new IntersectionObserver((seen) => {
  for (const { isIntersecting, target } of seen) {
    if (isIntersecting) { target.src = target.preview; watcher.unobserve(target); }
  }
}, { rootMargin: "600px" });

function face(p, lazily = true) {
  if (!p.preview) return make("span", {}, p.note || "no preview");
  const image = make("img", { alt: "", decoding: "async" });
  if (lazily) { image.preview = p.preview; watcher.observe(image); } else image.src = p.preview;
  return image;
}
const weight = (bytes) => {
  for (const unit of ["B", "kB", "MB"]) {
    if (bytes < 1000) return `${unit === "B" || bytes >= 100 ? Math.round(bytes) : bytes.toFixed(1)} ${unit}`;
    bytes /= 1000;
  }
  return `${bytes.toFixed(1)} GB`;
};
const mark = (p, name) => (p.row.grades[name] === "declared" ? "~" : "");
function sides(p) {
  const { width, height } = p.row;
  if (!width && !height) return p.row.shown_width ? `shown ${p.row.shown_width}×${p.row.shown_height ?? "?"}` : "size not known";
  return `${mark(p, "width")}${width ?? "?"}×${mark(p, "height")}${height ?? "?"}`;
}
function measures(p) {
  return [sides(p), p.row.type, p.row.bytes === null ? "" : weight(p.row.bytes), p.row.found_in].filter(Boolean).join(" · ");
}
const titleOf = (p) => p.row.name || p.row.url.split(/[?#]/)[0].split("/").pop() || p.row.url;
const wordsOf = (p) => p.row.item || p.row.alt || p.row.caption || p.row.link_text || p.row.title || p.row.heading || "";

function tileOf(p) {
  if (p.tile) return p.tile;
  const box = make("input", { type: "checkbox", checked: p.ticked, tabIndex: -1 });
  box.setAttribute("aria-label", `Pick ${p.row.number}, ${titleOf(p)}`);
  box.addEventListener("change", () => { p.ticked = box.checked; settle(); });
  const button = make("button", { type: "button", className: "face", tabIndex: -1 }, face(p));
  button.setAttribute("aria-label", `Open ${p.row.number}, ${wordsOf(p) || titleOf(p)}`);
  button.addEventListener("click", () => open(p));
  button.addEventListener("focus", () => { makeCurrent(p); });
  const label = make("label", { title: titleOf(p) }, box, make("span", {}, `${p.row.number}  ${titleOf(p)}`));
  const why = make("p", { className: "why" });
  const said = make("div", { className: "said" }, label, make("p", {}, measures(p)), make("p", { title: wordsOf(p) }, wordsOf(p)), why);
  p.tile = make("li", { className: "tile" }, button, said);
  Object.assign(p, { box, button, whyLine: why });
  return p.tile;
}
function dress(p) {
  if (!p.tile) return;
  p.box.checked = p.ticked && isIn(p);
  p.box.disabled = !isIn(p);
  p.tile.classList.toggle("ticked", p.ticked && isIn(p));
  p.tile.classList.toggle("out", !isIn(p));
  p.whyLine.hidden = isIn(p);
  p.whyLine.textContent = isIn(p) ? "" : `out: ${p.out}`;
}

const SORTS = {
  width: (p) => p.row.width ?? 0, pixels: (p) => product(p.row) ?? 0, bytes: (p) => p.row.bytes ?? 0,
};
function sorted(list) {
  const key = $("sort").value;
  if (key === "page") return list;
  if (key in SORTS) return [...list].sort((a, b) => SORTS[key](b) - SORTS[key](a) || a.place - b.place);
  const text = key === "name" ? (p) => (p.row.name ?? "").toLowerCase() : (p) => p.row.url;
  return [...list].sort((a, b) => (text(a) < text(b) ? -1 : text(a) > text(b) ? 1 : a.place - b.place));
}
const GROUPS = {
  item: (p) => p.row.item ?? "no item", page: (p) => p.row.page ?? "no page", type: (p) => p.row.type ?? "type not known", shape: (p) => shapeOf(p.row) ?? "shape not known",
  twins: (p) => (p.twins ? `alike, group ${p.twins}` : "like no other"),
};

function render() {
  readFilters();
  showFunnel(sift());
  const list = sorted(pictures.filter((p) => isIn(p) || $("dropped").checked));
  const groups = new Map();
  const key = GROUPS[$("group").value] ?? (() => "");
  for (const p of list) (groups.get(key(p)) ?? groups.set(key(p), []).get(key(p))).push(p);
  shown = [...groups.values()].flat();
  const parts = [];
  let row = null; // of items with one picture each: they say what they are without a heading
  for (const [name, members] of groups) {
    const isAlone = ["item", "twins"].includes($("group").value) && members.length === 1;
    if (name && !isAlone) parts.push(make("h2", {}, `${name} (${grouped(members.length)})`));
    if (isAlone && row) { row.append(tileOf(members[0])); continue; }
    const tiles = make("ul", { className: "tiles" }, ...members.map(tileOf));
    row = isAlone ? tiles : null;
    parts.push(tiles);
  }
  if (!shown.length) parts.push(make("p", { className: "nothing" }, "No picture is left. Widen the filters, or show what is out."));
  $("main").replaceChildren(...parts);
  makeCurrent(shown.includes(current) ? current : shown[0] ?? null);
  settle();
  chart();
}

function settle() {
  for (const p of pictures) dress(p);
  const count = picks().length;
  $("picked").textContent = `${grouped(count)} picked`;
  for (const id of ["save", "addresses"]) $(id).disabled = !count;
  $("copy").disabled = !count || !data.line;
  if (opened) $("large-tick").checked = opened.ticked && isIn(opened);
}

function makeCurrent(p) {
  if (current && current.tile) current.box.tabIndex = current.button.tabIndex = -1;
  current = p;
  if (p && p.tile) p.box.tabIndex = p.button.tabIndex = 0;
}
function focusOn(p) {
  if (!p) return;
  makeCurrent(p);
  p.button.focus();
  p.tile.scrollIntoView({ block: "nearest" });
}

// --- one picture, large ---

let opened = null;
const fact = (list, label, value) => { if (value) list.append(make("dt", {}, label), make("dd", {}, value)); };
const isWeb = (address) => /^https?:\/\//i.test(address ?? "");
const linked = (address, text = address) =>
  isWeb(address) || /^file:/i.test(address) ? make("a", { href: address, rel: "noreferrer noopener", target: "_blank" }, text) : address;

function open(p) {
  opened = p;
  $("large-title").textContent = `${p.row.number}  ${titleOf(p)}`;
  $("view").replaceChildren(face(p, false));
  const image = $("view").querySelector("img");
  if (image) image.alt = wordsOf(p) || titleOf(p);
  const list = make("dl");
  fact(list, "size", measures(p));
  fact(list, "item", p.row.item_url && p.row.item ? linked(p.row.item_url, p.row.item) : p.row.item);
  for (const [header, text] of Object.entries(p.row.columns ?? {})) fact(list, header, text);
  const told = new Set([p.row.item, ...Object.values(p.row.columns ?? {})]);
  fact(list, "words", [...new Set(p.words)].filter((text) => !told.has(text)).join(" · "));
  fact(list, "credit", p.row.credit);
  fact(list, "licence", isWeb(p.row.licence) ? linked(p.row.licence) : p.row.licence);
  fact(list, "address", linked(p.row.url));
  if (p.row.shown_url !== p.row.url) fact(list, "shown", linked(p.row.shown_url));
  fact(list, "page", p.row.page && linked(p.row.page));
  fact(list, "file", p.file && linked(p.place_on_disk, p.file));
  fact(list, "furniture", p.row.furniture);
  fact(list, "out", p.out);
  $("facts").replaceChildren(list, make("pre", {}, p.story));
  $("large-tick").disabled = !isIn(p);
  settle();
  if (!$("large").open) $("large").showModal();
}
function step(by) {
  const at = shown.indexOf(opened) + by;
  if (shown[at]) { makeCurrent(shown[at]); open(shown[at]); }
}

// --- what leaves the sheet: a pick list, addresses, a line ---

const begins = (text, starts) => starts.some((start) => text.startsWith(start));
const isGuarded = (text) => begins(text, data.formulas) || (text[0] === "'" && begins(text.slice(1), [...data.formulas, "'"]));
function cell(value) {
  let text = value;
  if (value === null || value === undefined) text = "";
  else if (typeof value === "boolean") text = value ? "yes" : "no";
  else if (typeof value === "object") text = JSON.stringify(value);
  else if (typeof value === "string" && isGuarded(value)) text = `'${value}`;
  text = String(text);
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}
function pickList() {
  const lines = [data.columns.join(",")];
  for (const p of pictures) {
    const row = { ...p.row, pick: p.ticked && isIn(p) };
    lines.push(data.columns.map((column) => cell(row[column])).join(","));
  }
  return lines.join("\r\n") + "\r\n";
}
function numbers() {
  const spans = [];
  for (const number of picks().map((p) => p.row.number).sort((a, b) => a - b)) {
    const last = spans.at(-1);
    if (last && number === last[1] + 1) last[1] = number;
    else spans.push([number, number]);
  }
  return spans.map(([low, high]) => (low === high ? `${low}` : `${low}..${high}`)).join(",");
}
function save(name, text, type) {
  const address = URL.createObjectURL(new Blob([text], { type }));
  make("a", { href: address, download: name }).click();
  setTimeout(() => URL.revokeObjectURL(address), 10000);
  $("said").textContent = `${name} saved`;
}
async function copy(text) {
  try {
    await navigator.clipboard.writeText(text);
  } catch {
    const box = make("textarea", { value: text });
    document.body.append(box);
    box.select();
    document.execCommand("copy");
    box.remove();
  }
  $("said").textContent = "copied";
  $("copy").textContent = "Copied";
  setTimeout(() => { $("copy").textContent = "Copy pack line"; }, 1500);
}
const packLine = () => `${data.line} --only ${numbers()}`;

// --- the chart: every picture by width and height, and how large the files are ---

const COLOURS = { jpeg: "#2f7ed8", png: "#2e9e5b", webp: "#c26a12", gif: "#a34fc0", svg: "#c23b60", avif: "#0f8f96" };
const svg = (tag, about, ...inside) => {
  const element = document.createElementNS("http://www.w3.org/2000/svg", tag);
  for (const [name, value] of Object.entries(about)) element.setAttribute(name, value);
  element.append(...inside);
  return element;
};
function chart() {
  if (!$("measures").open) return;
  const known = pictures.filter((p) => p.row.width && p.row.height);
  const most = Math.max(1000, ...known.flatMap((p) => [p.row.width, p.row.height]));
  const log = Math.log10;
  const [left, top, wide, tall] = [52, 14, 520, 300];
  const x = (value) => left + (log(Math.max(1, value)) / log(most * 1.2)) * wide;
  const y = (value) => top + tall - (log(Math.max(1, value)) / log(most * 1.2)) * tall;
  const root = svg("svg", { class: "chart", viewBox: "0 0 1000 360", width: 1000, role: "img", "aria-label": `${known.length} pictures by width and height; beside it how many files are of which size` });
  for (const value of [1, 3, 10, 30, 100, 300, 1000, 3000, 10000].filter((n) => n <= most * 1.2)) {
    root.append(svg("line", { class: "rule", x1: x(value), x2: x(value), y1: top, y2: top + tall }), svg("line", { class: "rule", x1: left, x2: left + wide, y1: y(value), y2: y(value) }));
    root.append(svg("text", { x: x(value), y: top + tall + 14, "text-anchor": "middle" }, grouped(value)), svg("text", { x: left - 6, y: y(value) + 4, "text-anchor": "end" }, grouped(value)));
  }
  root.append(svg("text", { x: left + wide / 2, y: top + tall + 34, "text-anchor": "middle" }, "width in pixels"), svg("text", { x: 14, y: top + tall / 2, transform: `rotate(-90 14 ${top + tall / 2})`, "text-anchor": "middle" }, "height in pixels"));
  for (const p of known) {
    const colour = COLOURS[p.row.type] ?? "#7a7f87";
    const point = svg("circle", { cx: x(p.row.width), cy: y(p.row.height), r: 4, fill: isIn(p) ? colour : "none", stroke: colour, "fill-opacity": 0.75 });
    point.append(svg("title", {}, `${p.row.number}  ${titleOf(p)}  ${sides(p)}`));
    point.addEventListener("click", () => open(p));
    root.append(point);
  }
  const bounds = Object.fromEntries(filters.filter(([name]) => name === "width" || name === "height").map(([name, , text]) => [name, range(text, "side")]));
  if (bounds.width || bounds.height) {
    const [w, h] = [bounds.width ?? { low: null, high: null }, bounds.height ?? { low: null, high: null }];
    const [x1, x2, y1, y2] = [x(w.low ?? 1), x(w.high ?? most * 1.2), y(h.high ?? most * 1.2), y(h.low ?? 1)];
    root.append(svg("rect", { class: "box", x: x1, y: y1, width: Math.max(1, x2 - x1), height: Math.max(1, y2 - y1) }));
  }
  const weighed = pictures.filter((p) => p.row.bytes && isIn(p)).map((p) => p.row.bytes);
  const bins = new Map();
  for (const bytes of weighed) { const bin = Math.floor(log(bytes) * 3); bins.set(bin, (bins.get(bin) ?? 0) + 1); }
  const [first, last] = [Math.min(...bins.keys()), Math.max(...bins.keys())];
  const highest = Math.max(1, ...bins.values());
  const bar = Math.min(40, 340 / (last - first + 1 || 1));
  for (let bin = first; bin <= last; bin += 1) {
    const count = bins.get(bin) ?? 0;
    const at = 630 + (bin - first) * bar;
    root.append(svg("rect", { class: "bar", x: at, y: top + tall - (count / highest) * (tall - 20), width: bar - 2, height: (count / highest) * (tall - 20) }));
    if (count) root.append(svg("text", { x: at + bar / 2, y: top + tall - (count / highest) * (tall - 20) - 4, "text-anchor": "middle" }, count));
    if ((bin - first) % Math.ceil(52 / bar) === 0) root.append(svg("text", { x: at, y: top + tall + 14 }, weight(10 ** (bin / 3))));
  }
  root.append(svg("text", { x: 630, y: top + tall + 34 }, weighed.length ? "bytes of the file, as far as known" : "no file sizes known yet"));
  const types = [...new Set(known.map((p) => p.row.type ?? "not known"))].map((type) => {
    const dot = make("i");
    dot.style.background = COLOURS[type] ?? "#7a7f87";
    return make("span", {}, dot, type);
  });
  $("chart").replaceChildren(root, make("p", { className: "legend" }, ...types, make("span", {}, "filled: in · hollow: out")));
}

// --- wiring ---

FILTERS.furniture.begins = "drop"; // they dress the page; to show them again is one choice
for (const [name, filter] of Object.entries(FILTERS)) {
  filter.box = filter.choices
    ? make("select", {}, ...filter.choices.map((choice) => make("option", { value: choice }, choice || "any")))
    : make("input", { type: "text", placeholder: filter.example, spellcheck: false });
  filter.box.id = `filter-${name}`;
  filter.box.value = filter.begins ?? "";
  if (filter.choices && !filter.box.value) filter.box.value = filter.choices[0];
  filter.box.addEventListener("input", render);
  $("filters").append(make("label", {}, name, filter.box));
}
for (const id of ["search", "sort", "group", "dropped"]) $(id).addEventListener("input", render);
$("size").addEventListener("input", () => document.documentElement.style.setProperty("--tile", `${$("size").value}px`));
$("measures").addEventListener("toggle", chart);
const tickAll = (ticked) => { for (const p of shown) if (isIn(p)) p.ticked = ticked(p); settle(); };
const actions = {
  a: () => tickAll(() => true), n: () => tickAll(() => false), i: () => tickAll((p) => !p.ticked),
};
$("all").addEventListener("click", actions.a);
$("none").addEventListener("click", actions.n);
$("invert").addEventListener("click", actions.i);
$("save").addEventListener("click", () => save("picks.csv", pickList(), "text/csv"));
$("addresses").addEventListener("click", () => save("picks.txt", picks().map((p) => `${p.row.url}\n`).join(""), "text/plain"));
$("copy").addEventListener("click", () => copy(packLine()));
$("close").addEventListener("click", () => $("large").close());
$("before").addEventListener("click", () => step(-1));
$("after").addEventListener("click", () => step(1));
$("large-tick").addEventListener("change", () => { opened.ticked = $("large-tick").checked; settle(); });
$("large").addEventListener("close", () => { const was = opened; opened = null; focusOn(was); });

function columnsOf(p) {
  const first = p.tile.offsetTop;
  const line = [...p.tile.parentElement.children].filter((tile) => tile.offsetTop === first);
  return Math.max(1, line.length);
}
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const target = event.target;
  const isTyping = target.matches("input:not([type=checkbox]), select, textarea");
  if ($("large").open) {
    if (event.key === "ArrowLeft") step(-1);
    else if (event.key === "ArrowRight") step(1);
    else if (event.key === " " && isIn(opened) && !target.matches("button, input")) { opened.ticked = !opened.ticked; settle(); }
    else return;
    event.preventDefault();
    return;
  }
  if (isTyping) {
    if (event.key === "Escape") { target.blur(); focusOn(current); }
    return;
  }
  const inTiles = target.closest(".tile") !== null || target === document.body;
  const at = shown.indexOf(current);
  const moves = { ArrowRight: 1, ArrowLeft: -1 };
  if (event.key === "/") $("search").focus();
  else if (event.key in actions) actions[event.key]();
  else if (inTiles && event.key in moves) focusOn(shown[at + moves[event.key]]);
  else if (inTiles && (event.key === "ArrowDown" || event.key === "ArrowUp") && current) {
    const by = columnsOf(current) * (event.key === "ArrowDown" ? 1 : -1);
    focusOn(shown[at + by]);
  } else if (inTiles && event.key === " " && current && !target.matches("input")) {
    if (isIn(current)) { current.ticked = !current.ticked; settle(); }
  } else return;
  event.preventDefault();
});
render();
