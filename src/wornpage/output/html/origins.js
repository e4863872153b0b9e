"use strict";
// Lets readers ask where things come from. `answer` gives the steps for an element, and the number of the first; `place` shows where one stands.
function wornOrigins(words, answer, place) {
  let steps = [];
  const make = (tag, name, ...inner) => {
    const made = document.createElement(tag);
    if (name) made.className = name;
    made.append(...inner.filter((one) => one !== null && one !== ""));
    return made;
  };

  // --- asking: a switch, and what can be asked of ---
  const toggle = make("button", "origin-switch", words.origin);
  toggle.type = "button";
  toggle.setAttribute("aria-pressed", "false");
  const panel = make("aside", "origin-panel");
  panel.hidden = true;
  panel.tabIndex = -1;
  panel.setAttribute("aria-live", "polite");
  panel.setAttribute("aria-label", words.origin);
  document.body.append(panel, toggle);
  let asked = null;

  const asking = (on) => {
    toggle.setAttribute("aria-pressed", String(on));
    document.body.classList.toggle("asking-origins", on);
    for (const one of document.querySelectorAll("[data-from]")) {
      if (on) { one.tabIndex = 0; } else { one.removeAttribute("tabindex"); }
    }
    panel.hidden = !on;
    if (on) panel.replaceChildren(make("p", "origin-hint", words.choose)); else mark(null);
  };
  const mark = (one) => {
    if (asked) asked.classList.remove("origin-asked");
    asked = one;
    if (asked) asked.classList.add("origin-asked");
  };
  toggle.onclick = () => asking(toggle.getAttribute("aria-pressed") !== "true");
  addEventListener("keydown", (event) => {
    const on = toggle.getAttribute("aria-pressed") === "true";
    if (!on) return;
    if (event.key === "Escape") { asking(false); toggle.focus(); event.preventDefault(); }
    const here = event.target.closest && event.target.closest("[data-from]");
    if (here && event.target === here && (event.key === "Enter" || event.key === " ")) { event.preventDefault(); tell(here, here); }
  });
  addEventListener("click", (event) => {
    if (!document.body.classList.contains("asking-origins") || panel.contains(event.target)) return;
    const here = event.target.closest("[data-from]");
    if (!here) return;
    event.preventDefault();
    event.stopPropagation();
    tell(here, event.target);
  }, true);

  // --- telling ---
  const tell = async (here, spot) => {
    mark(here);
    const told_of = await answer(here);
    if (!told_of || asked !== here) return;
    steps = told_of.steps;
    const cell = here.tagName === "FIGURE" ? spot.closest("td, th") : null;
    const shown = cell || (here.tagName === "FIGURE" ? here.querySelector("figcaption") : here);
    const title = make("h2", "", (shown ? shown.textContent : "").trim().slice(0, 160));
    const exact = cell && cell.querySelector("data[value]");
    const close = make("button", "origin-close", "×");
    close.type = "button";
    close.setAttribute("aria-label", words.close);
    close.onclick = () => { asking(false); toggle.focus(); };
    const told = new Set(), libraries = new Map();
    const tree = make("ul", "origin-tree", branch(told_of.first, told, libraries));
    const last = libraries.size ? make("p", "origin-libraries", `${words.libraries}: ${[...libraries].map((one) => one.join(" ")).join(", ")}`) : null;
    panel.replaceChildren(close, title, ...(exact ? [make("p", "", `${words.exact}: `, make("b", "", exact.value))] : []), tree, ...(last ? [last] : []));
    panel.hidden = false;
    panel.focus({ preventScroll: true });
  };

  const named = (one) => {
    const said = [];
    if (one.columns) said.push(`${words.columns} ${one.columns.join(", ")}`);
    if (one.rows) said.push(`${words.rows} ${one.rows.join("; ")}`);
    return said.length ? make("span", "origin-named", said.join("; ")) : null;
  };

  const branch = (number, told, libraries) => {
    const step = steps[number], item = make("li", "");
    const value = step.value === undefined ? null : make("b", "", ` = ${step.value}`);
    const head = step.label === undefined ? make("span", "", make("code", "", `{= ${step.code} }`), value) : make("span", "", make("b", "origin-chunk", step.label));
    if (told.has(number)) head.append(" …");
    item.append(head, make("span", "origin-place", place(step.place)));
    if (told.has(number)) return item;
    told.add(number);
    if (step.label !== undefined) {
      const code = make("details", "", make("summary", "", words.code), make("pre", "", make("code", "", step.code)));
      item.append(code);
    }
    const below = make("ul", "");
    for (const one of step.takes) {
      const inner = branch(one.from, told, libraries);
      inner.prepend(make("span", "origin-names", one.names.join(", "), " ← "));
      const said = named(one);
      if (said) inner.insertBefore(said, inner.querySelector("details, ul"));
      below.append(inner);
    }
    for (const one of step.files) below.append(make("li", "origin-file", make("b", "", one.file), make("span", "origin-place", one.hash), named(one)));
    for (const [kind, name, value] of step.others) {
      if (kind === "package") { libraries.set(name, value); continue; }
      const said = kind === "given" ? `${words.given} ${name} = ${value}` : kind === "seed" ? `${words.seed} ${value}` : [name || kind, value].filter(Boolean).join(" ");
      below.append(make("li", "origin-other", said));
    }
    if (below.children.length) item.append(below);
    return item;
  };
}
(() => {
  const held = document.getElementById("worn-origins");
  if (!held) return;
  const { steps, words } = JSON.parse(held.textContent);
  wornOrigins(words, (here) => ({ steps, first: Number(here.dataset.from) }), (place) => place);
})();
