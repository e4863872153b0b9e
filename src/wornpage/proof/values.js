// Given values in a proof: tried at once, and written into the source as defaults if that is wanted.
"use strict";
(() => {
  const panel = document.querySelector(".worn-panel");
  if (!panel) return;
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
    const text = await (await fetch("values")).text();
    if (text === shown || holder.contains(document.activeElement)) return;
    shown = text;
    holder.innerHTML = text;
    form.hidden = !text;
    if (text) document.querySelector(".worn-open").textContent = "values, chunks";
  }
  function values() {
    const found = {};
    for (const one of holder.querySelectorAll("[data-given]")) {
      const name = one.dataset.given, control = one.querySelector("input, select, textarea");
      if (one.dataset.kind === "picks") found[name] = [...one.querySelectorAll("input:checked")].map((box) => box.value);
      else if (control.type === "checkbox") found[name] = control.checked ? "yes" : "no";
      else if (control.value !== "" || control.type === "text") found[name] = control.value;
    }
    return found;
  }
  async function tell(path) {
    const answer = await fetch(path, { method: "POST", body: JSON.stringify(values()) });
    const told = await answer.json().catch(() => ({}));
    said.textContent = told.why || told.said || "";
    said.classList.toggle("worn-wrong", !answer.ok);
  }
  holder.addEventListener("input", (event) => {
    const slider = event.target.closest(".slider");
    if (slider) slider.querySelector("output").textContent = event.target.value;
    clearTimeout(timer);
    timer = setTimeout(() => tell("given"), 250);
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); tell("given"); });
  write.onclick = () => tell("default");
  document.querySelector(".worn-open").addEventListener("click", load);
  new MutationObserver(load).observe(document.documentElement, { attributeFilter: ["data-worn-version"] });
  load();
})();
