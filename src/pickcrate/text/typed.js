// Words as somebody types them who looks for them; typed.py says how and why, and what SIGNS and LETTERS are.
const anyOf = (table) => new RegExp(`[${Object.keys(table).join("")}]`, "g");
const SIGN = anyOf(SIGNS);
const LETTER = anyOf(LETTERS);
const isOfKeys = (text) => /^[\x00-\x5f\x61-\x7f]*$/.test(text);
const typed = (text) => text.replace(SIGN, (one) => SIGNS[one]).normalize("NFKC");
const bare = (text) => text.normalize("NFKD").replace(/[\u0300-\u036f]/g, "").replace(LETTER, (one) => LETTERS[one]);
const caseless = (text) => text.toUpperCase().toLowerCase().replace(/ς/g, "σ");  // ß is ss
const plain = (text) => (isOfKeys(text) ? text.toLowerCase() : caseless(typed(text)));
const unmarked = (text) => (isOfKeys(text) ? plain(text) : bare(plain(text)).normalize("NFC"));
const foldingFor = (sought) => (unmarked(sought) === plain(sought) ? unmarked : plain);
