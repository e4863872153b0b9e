// A click on a figure of Matplotlib offers its labels, limits, scales, grid, legend and size: each shows at once, and is a line of code, to be copied or written into the page.
"use strict";
(() => {
  const choices = {
    "x-scale": ["", "linear", "log", "symlog"], "y-scale": ["", "linear", "log", "symlog"], grid: ["", "both", "x", "y", "none"],
    legend: ["", "best", "upper right", "upper left", "lower left", "lower right", "center right", "center left", "lower center", "upper center", "center"],
  };
  const fields = [["title"], ["x-label"], ["y-label"], ["x-from", "x-to"], ["y-from", "y-to"], ["x-scale", "y-scale"], ["grid", "legend"], ["width", "height"]];
  let open = null;

  async function tell(what) {
    const told = await wornProof.ask("tune", { part: open.part, first: open.first, picked: picked(), what });
    open.note.textContent = told.why || told.said || "";
    open.note.classList.toggle("worn-wrong", Boolean(told.why));
    if (told.code !== undefined) open.code.textContent = told.code;
    if (told.first !== undefined) open.first = told.first;
    return !told.why;
  }
  function picked() {
    const found = {};
    for (const control of open.form.querySelectorAll("[name]")) if (control.value !== "") found[control.name] = control.value;
    return found;
  }
  function shut(undo) {
    if (!open) return;
    if (undo && open.touched) tell("leave");
    open.form.remove();
    open = null;
  }
  document.addEventListener("click", (event) => {
    const figure = event.target.closest("main figure:not(.table):not(.listing)");
    if (!figure || !event.target.closest(".picture") || event.target.closest("iframe, button, input") || String(getSelection())) return;
    event.stopPropagation();
    shut(true);
    const form = document.createElement("form"), code = document.createElement("pre"), note = document.createElement("p");
    form.className = "worn-tune";
    form.setAttribute("aria-label", "This figure");
    for (const row of fields) {
      const line = document.createElement("div");
      for (const name of row) {
        const label = document.createElement("label"), control = document.createElement(choices[name] ? "select" : "input");
        label.textContent = name.replace("-", " ");
        control.name = name;
        for (const one of choices[name] || []) control.append(Object.assign(document.createElement("option"), { value: one, textContent: one || "as it is" }));
        if (name === "width" || name === "height") control.placeholder = "14cm";
        label.append(control);
        line.append(label);
      }
      form.append(line);
    }
    note.setAttribute("role", "status");
    const button = (text, act) => { const made = document.createElement("button"); made.type = "button"; made.textContent = text; made.onclick = act; form.append(made); };
    form.append(code, note);
    open = { form, code, note, part: wornProof.placeOf(figure), first: null, touched: false };
    button("write into the page", async () => { if (await tell("write")) { open.touched = false; shut(false); } });
    button("copy", () => navigator.clipboard && navigator.clipboard.writeText(code.textContent).then(() => { note.textContent = "copied"; }));
    button("leave", () => shut(true));
    document.body.append(form);
    form.querySelector("input").focus();
    let timer = 0;
    form.addEventListener("input", () => { open.touched = true; clearTimeout(timer); timer = setTimeout(() => open && tell("try"), 300); });
    form.addEventListener("submit", (submitted) => { submitted.preventDefault(); tell("try"); });
    form.addEventListener("keydown", (key) => { if (key.key === "Escape") shut(true); });
  }, true);
})();
