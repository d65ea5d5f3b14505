"use strict";
{
  const pairs = [...document.querySelectorAll(".pair")];
  const boxes = [...document.querySelectorAll("#kinds input")];
  const search = document.getElementById("search");
  const narrow = () => {
    const kinds = new Set(boxes.filter((box) => box.checked).map((box) => box.value));
    const sought = search.value.trim().toLowerCase();
    let left = 0;
    for (const pair of pairs) {
      pair.hidden = !(kinds.has(pair.dataset.change) && pair.dataset.words.includes(sought));
      left += !pair.hidden;
    }
    document.getElementById("shown").textContent = `${left} of ${pairs.length} shown`;
    document.getElementById("nothing").hidden = left > 0;
  };
  for (const box of boxes) box.addEventListener("change", narrow);
  search.addEventListener("input", narrow);
  document.addEventListener("keydown", (event) => {
    if (event.key === "/" && document.activeElement !== search) {
      event.preventDefault();
      search.focus();
    }
  });
  narrow();
}
