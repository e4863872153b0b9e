// Given values in a proof: tried at once, and written into the source as defaults if that is wanted.
"use strict";
(() => {
  const { panel, opener, ask } = wornProof;
  const form = document.createElement("form");
  form.className = "worn-values";
  form.setAttribute("aria-label", "Given values");
  form.hidden = true;
  panel.prepend(form);
  const holder = document.createElement("div"), said = document.createElement("p"), write = document.createElement("button");
  write.type = "button";
  write.textContent = "write as defaults";
  said.setAttribute("role", "status");
  form.append(holder, write, said);
  let shown = "", timer = 0;

  async function load() {
    const text = (await ask("values")).fields || "";
    if (text === shown || holder.contains(document.activeElement)) return;
    shown = text;
    holder.innerHTML = text;
    form.hidden = !text;
    if (text) opener.textContent = "values, chunks";
  }
  async function tell(path) {
    const told = await ask(path, picks.values());
    said.textContent = told.why || told.said || "";
    said.classList.toggle("worn-wrong", Boolean(told.why));
  }
  const picks = wornFields(holder);
  holder.addEventListener("input", () => {
    clearTimeout(timer);
    timer = setTimeout(() => tell("given"), 250);
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); tell("given"); });
  write.onclick = () => tell("default");
  opener.addEventListener("click", load);
  new MutationObserver(load).observe(document.documentElement, { attributeFilter: ["data-worn-version"] });
  load();
})();
