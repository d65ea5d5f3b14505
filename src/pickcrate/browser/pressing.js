// What may be pressed in a page, and what that is called.
const eitherOf = (...lists) => new RegExp(lists.join("|"), "i");
const CONSENT = eitherOf(
  "cookie|consent|gdpr|rgpd|dsgvo|privacy|datenschutz|einwilligung|confidentialit|vie privée|privacidad|consentimi",
  "consenso|toestemming|samtyck|samtykke|suostumus|eväste|informasjonskapsl|ciasteczk|prywatno|souhlas|súhlas|süti",
  "hozzájárulás|consimțăm|соглас|съглас|конфиденц|συγκατάθεση|çerez|עוגיות|ملفات تعريف|同意|クッキー|プライバシー|쿠키|개인정보|隐私|隱私",
);
const NEVER = eitherOf(
  "\\b(?:sign|log) ?(?:in|up|out|off)\\b",
  "\\b(?:buy|order|pay|checkout|delete|remove|subscribe|unsubscribe|report|send|submit|post|follow|share)\\b",
  "kaufen|bestellen|bezahlen|löschen|anmelden|abmelden|abonnieren|acheter|payer|supprimer|se connecter|connexion|comprar",
  "pagar|eliminar|excluir|iniciar sesión|suscribir|acquista|elimina|accedi|kopen|inloggen|verwijderen|betala|ta bort",
  "logga in|köp nu|slett|logg inn|kjøp nå|log ind|køb nu|kirjaudu|poista|zaloguj|usuń|zapłać|kup teraz|přihlásit|smazat",
  "koupit|bejelentkez|törlés|vásárlás|autentificare|șterge|cumpără|купить|оплатить|войти|удалить|подписаться|отправить",
  "купити|увійти|видалити|αγορά|σύνδεση|διαγραφή|satın al|giriş yap|購入|注文|ログイン|削除|送信|购买|登录|登入|删除|提交|구매|로그인|삭제",
);
const LONGEST_LABEL = 40;
const SENDS = "button:not([type=button i]):not([type=reset i]), input[type=submit i], input[type=image i]";
const PRESSABLE =
  "button, a, summary, label, input:is([type=button i], [type=submit i], [type=image i]), [onclick], [tabindex='0'], " +
  ["button", "link", "tab", "menuitem", "option", "radio", "switch"].map((role) => `[role=${role}]`).join(", ");
const LONGEST_NAME = 80;
const PAGER = "[class*=pagin i], [id*=pagin i], [aria-label*=pagin i], [class~=pager i], [class~=pages i]";
const NUMBERS_PAGES = `${PAGER}, nav, [role=navigation]`;
const HOLDS_A_PAGER = 3;  // levels around what leads on
const MOST_BESIDE = 50;

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

// Whether several of what may be pressed in an element are numbers of pages. ``known`` says it of those looked at.
const holdsNumbers = (around, known) => {
  if (!known.has(around)) {
    const labels = [...around.querySelectorAll(PRESSABLE)].slice(0, MOST_BESIDE).map(says);
    known.set(around, labels.filter((label) => /^(\p{L}{1,10} )?\d{1,5}$/u.test(label)).length > 1);
  }
  return known.get(around);
};
// Whether something leads through the pages of a list: it is in what is called so, or beside the numbers of pages,
// with no picture among them. A number may be a day, or a grade to give: what holds it must say that it leads somewhere.
const isOfPager = (element, known) => {
  if (/^\d+$/.test(says(element))) return !!element.closest(NUMBERS_PAGES);
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
const bestNamed = (elements, name, fold) => {
  const isCalled = (element) => called(element).some((said) => fold(said) === name);
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
const written = (name, fold) => {
  const says = (element) => fold(folded(element.textContent)).includes(name);
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
