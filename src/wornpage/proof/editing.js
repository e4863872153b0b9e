// A double click on a block of the page opens its Markdown in place; saved, it goes into the source at once.
"use strict";
(() => {
  const { ask, tell, placeOf, nodesOf } = wornProof;
  let open = null;

  function shut() {
    if (!open) return;
    open.form.remove();
    open.hidden.forEach((one) => { one.style.display = ""; });
    open = null;
  }

  document.addEventListener("dblclick", async (event) => {
    if (!event.target.closest("main") || event.target.closest("a, button, summary, input, textarea, select, iframe, .worn-edit, .worn-problem, .readers")) return;
    const part = placeOf(event.target);
    if (part < 0) return;
    event.preventDefault();
    getSelection().removeAllRanges();
    const told = await ask(`source?part=${part}`);
    if (told.why) return tell(told.why);
    if (open) { if (open.text.value !== open.before) return open.text.focus(); shut(); }
    const form = document.createElement("form"), text = document.createElement("textarea"), note = document.createElement("p");
    form.className = "worn-edit";
    form.setAttribute("aria-label", "Markdown of this block");
    text.value = told.text;
    text.spellcheck = true;
    text.rows = Math.min(24, told.text.split("\n").length + 1);
    note.setAttribute("role", "status");
    note.textContent = "Ctrl+Enter saves, Esc leaves it as it was";
    const save = document.createElement("button"), leave = document.createElement("button");
    save.textContent = "save"; leave.textContent = "leave"; leave.type = "button";
    form.append(text, save, leave, note);
    const [mark, ...nodes] = nodesOf(part), hidden = nodes.filter((node) => node.nodeType === 1);
    mark.after(form);
    hidden.forEach((one) => { one.style.display = "none"; });
    open = { form, text, hidden, before: told.text };
    text.focus();
    leave.onclick = shut;
    helped(form, text, told);
    const done = async () => {
      if (text.value === told.text) return shut();
      const answer = await ask("source", { first: told.first, before: told.text, after: text.value });
      if (answer.why) { note.textContent = answer.why; note.classList.add("worn-wrong"); return; }
      shut();
    };
    form.addEventListener("submit", (submitted) => { submitted.preventDefault(); done(); });
    text.addEventListener("keydown", (key) => {
      if (key.key === "Enter" && (key.ctrlKey || key.metaKey)) { key.preventDefault(); done(); }
      if (key.key === "Escape") { key.preventDefault(); shut(); }
      key.stopPropagation();
    });
  });

  // --- help: labels, works, options, names of code, as one writes ---
  function helped(form, text, told) {
    const list = document.createElement("ul");
    list.className = "worn-help";
    list.setAttribute("role", "listbox");
    list.hidden = true;
    text.after(list);
    let timer = 0, asked = 0, at = 0, found = [];
    const hide = () => { list.hidden = true; found = []; };
    const mark = () => [...list.children].forEach((one, place) => one.setAttribute("aria-selected", String(place === at)));
    const begun = () => /[\w:./-]*$/.exec(text.value.slice(0, text.selectionStart))[0];
    function put(one) {
      const word = begun(), common = one.toLowerCase().startsWith(word.toLowerCase()) || one.toLowerCase().includes(word.split(/[./:]/).pop().toLowerCase()) ? word : "";
      const kept = /[.]/.test(common) && !one.includes(".") ? common.slice(common.lastIndexOf(".") + 1) : common;
      text.setRangeText(one, text.selectionStart - kept.length, text.selectionStart, "end");
      hide();
      text.focus();
    }
    async function look() {
      const mine = ++asked, before = text.value.slice(0, text.selectionStart);
      const line = before.split("\n").length - 1, column = before.length - before.lastIndexOf("\n") - 1;
      if (!/\{(?:see|cite)\s[^{}]*$|[\w.$"'=]$/.test(before)) return hide();
      const answer = await ask("help", { first: told.first, before: told.text, after: text.value, line, column });
      const words = answer.found || [], word = begun().toLowerCase();
      if (mine !== asked || !open) return;
      const last = word.split(/[./:]/).pop();
      found = words.filter(([one, about]) => !word || one.toLowerCase().includes(last) || about.toLowerCase().includes(word)).slice(0, 8);
      if (!found.length || (found.length === 1 && found[0][0].toLowerCase() === word)) return hide();
      at = 0;
      list.replaceChildren(...found.map(([one, about]) => {
        const item = document.createElement("li");
        item.setAttribute("role", "option");
        item.textContent = one;
        if (about) item.append(Object.assign(document.createElement("small"), { textContent: "  " + about.slice(0, 90) }));
        item.addEventListener("mousedown", (event) => { event.preventDefault(); put(one); });
        return item;
      }));
      list.hidden = false;
      mark();
    }
    text.addEventListener("input", () => { clearTimeout(timer); timer = setTimeout(look, 180); });
    text.addEventListener("blur", () => setTimeout(hide, 150));
    text.addEventListener("keydown", (key) => {
      if (list.hidden) return;
      if (key.key === "ArrowDown" || key.key === "ArrowUp") { at = (at + (key.key === "ArrowDown" ? 1 : found.length - 1)) % found.length; mark(); }
      else if (key.key === "Tab" || (key.key === "Enter" && !key.ctrlKey && !key.metaKey)) put(found[at][0]);
      else if (key.key === "Escape") hide();
      else return;
      key.preventDefault();
      key.stopImmediatePropagation();
    });
  }
})();
