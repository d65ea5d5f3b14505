// What a page is taken as: its markup, the style that scripts gave it, and what they have made of blobs.
const MOST_OF_BLOBS = 20000000;
const LONGEST_ADDRESS = 4096;

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

const pairs = (found) =>
  [...found].slice(0, MOST_SEEN).map((pair) => pair.slice(0, 2).map((address) => String(address).slice(0, LONGEST_ADDRESS)));
