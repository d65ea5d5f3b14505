{
  const rows = [...document.querySelectorAll(".row")];
  const boxes = [...document.querySelectorAll("#kinds input")];
  const search = document.getElementById("search");
  const narrow = () => {
    const kinds = new Set(boxes.filter((box) => box.checked).map((box) => box.value));
    const sought = unmarked(search.value.trim());
    let left = 0;
    for (const row of rows) {
      row.hidden = !(kinds.has(row.dataset.kind) && row.dataset.words.includes(sought));
      left += !row.hidden;
    }
    document.getElementById("shown").textContent = `${left} of ${rows.length} shown`;
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
