// Words as somebody types them who looks for them; typed.py says how and why.
const KEYS = [
  [/[‘’‚‛′´`ʼ‹›]/g, "'"],
  [/[“”„‟″«»]/g, '"'],
  [/[‐‑‒–—―−⁃]/g, "-"],
  [/[\u00ad\u200b-\u200f\u2060\ufeff]/g, ""],
  [/×/g, "x"],
];
const LETTERS = { æ: "ae", œ: "oe", ø: "o", ł: "l", đ: "d", ħ: "h", ı: "i" };
const isOfKeys = (text) => /^[\x00-\x5f\x61-\x7f]*$/.test(text);
const typed = (text) => KEYS.reduce((said, [sign, key]) => said.replace(sign, key), text).normalize("NFKC");
const bare = (text) => text.normalize("NFKD").replace(/[\u0300-\u036f]/g, "").replace(/[æœøłđħı]/g, (one) => LETTERS[one]);
const caseless = (text) => text.toUpperCase().toLowerCase().replace(/ς/g, "σ");  // ß is ss
const plain = (text) => (isOfKeys(text) ? text.toLowerCase() : caseless(typed(text)));
const unmarked = (text) => (isOfKeys(text) ? plain(text) : bare(plain(text)).normalize("NFC"));
const foldingFor = (sought) => (unmarked(sought) === plain(sought) ? unmarked : plain);
