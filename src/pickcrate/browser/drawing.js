// What scripts draw on canvases: charts, views in depth, pages of a reader that puts them together of pieces, one in the
// place of the other. What pictures of other sites are drawn on is closed to scripts (HTML standard, 4.12.5.1.20), and is
// told by those.
const LEAST_CANVAS = 32;  // pixels of a side, also of what two drawings are told apart by
const MOST_CANVASES = 200;
const MOST_PIXELS = 40000000;  // of one
const MOST_DRAWN = 60000000;  // characters of all drawings as addresses
const STILL = 60;  // milliseconds: what is another drawing by then is moving

const canvasesOf = () => all("canvas:not([src])").slice(0, MOST_CANVASES);
// What tells a drawing from others: the address of the picture that it is a copy of, or the drawing, small. Blank if
// there is nothing to see.
const signOf = (canvas) => {
  const { width, height } = canvas;
  if (!isShown(canvas) || Math.min(width, height) < LEAST_CANVAS || width * height > MOST_PIXELS) return "";
  const source = learned.drawn.get(canvas);
  if (/^https?:/.test(source)) return source;
  const small = document.createElement("canvas");
  small.width = small.height = LEAST_CANVAS;
  const context = small.getContext("2d");
  context.drawImage(canvas, 0, 0, LEAST_CANVAS, LEAST_CANVAS);
  const pixels = new Uint32Array(context.getImageData(0, 0, LEAST_CANVAS, LEAST_CANVAS).data.buffer);
  return pixels.every((pixel) => pixel === pixels[0]) ? "" : pixels.join();
};
// A drawing as an address; blank if there is no room for it any more.
const drawingOf = (canvas, sign) => {
  if (/^https?:/.test(sign)) return sign;
  const drawing = seen().roomForDrawn > 0 ? canvas.toDataURL() : "";
  seen().roomForDrawn -= drawing.length;
  return drawing;
};

// Notes what is drawn and does not move.
const rememberDrawn = async () => {
  const { drawn } = seen();
  const canvases = canvasesOf();
  if (!canvases.length) return;
  const signs = canvases.map((canvas) => tried(() => signOf(canvas), ""));
  await new Promise((done) => learned.setTimeout(done, STILL));
  canvases.forEach((canvas, place) => {
    const sign = tried(() => signOf(canvas), "");
    if (!sign || sign !== signs[place] || drawn.has(sign)) return;
    drawn.set(sign, { canvas, around: canvas.parentNode, drawing: drawingOf(canvas, sign) });
  });
};
// Writes into each canvas what it shows, and puts what it has shown before it; returns what was put there.
const writeDrawn = () => {
  const showing = new Map();
  for (const canvas of canvasesOf()) {
    const sign = tried(() => signOf(canvas), "");
    showing.set(canvas, sign);
    const drawing = sign && (seen().drawn.get(sign)?.drawing ?? drawingOf(canvas, sign));
    if (drawing) canvas.setAttribute("src", drawing);
  }
  const back = [];
  for (const [sign, { canvas, around, drawing }] of seen().drawn) {
    if (!drawing || showing.get(canvas) === sign) continue;
    const copy = canvas.cloneNode(false);
    copy.setAttribute("src", drawing);
    if (canvas.isConnected) canvas.before(copy);
    else (around?.isConnected ? around : document.body).append(copy);
    back.push(copy);
  }
  return back;
};
