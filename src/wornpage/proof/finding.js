// Labels by caption and works by any word, in the page's bibliography and in the author's library: the mark goes to where one writes, or is copied.
"use strict";
(() => {
  const { panel, ask } = wornProof;
  const form = document.createElement("form"), label = document.createElement("label"), words = document.createElement("input"), list = document.createElement("ul"), note = document.createElement("p");
  form.className = "worn-find";
  label.textContent = "Labels and works";
  words.type = "search";
  words.placeholder = "caption, title, name or DOI";
  note.setAttribute("role", "status");
  label.append(words);
  form.append(label, list, note);
  panel.prepend(form);
  let timer = 0, asked = 0, writing = null;
  document.addEventListener("focusin", (event) => { if (event.target.matches(".worn-edit textarea")) writing = event.target; });

  async function put(mark) {
    if (writing && writing.isConnected) {
      writing.setRangeText(mark, writing.selectionStart, writing.selectionEnd, "end");
      writing.focus();
      note.textContent = `${mark} written`;
      return;
    }
    try { await navigator.clipboard.writeText(mark); note.textContent = `${mark} copied`; } catch { note.textContent = mark; }
  }
  async function take(one) {
    if (one.mark) return put(one.mark);
    note.textContent = "…";
    const told = await ask("find", { take: one.take });
    if (told.why) { note.textContent = told.why; return; }
    await put(told.mark);
    note.textContent += ", and the work is in the bibliography";
  }
  async function find() {
    const mine = ++asked, told = await ask(`find?words=${encodeURIComponent(words.value)}`);
    if (mine !== asked) return;
    list.replaceChildren(...(told.found || []).map((one) => {
      const line = document.createElement("li"), button = document.createElement("button");
      button.type = "button";
      button.textContent = one.said + (one.kind === "library" ? "  (in your library)" : "");
      button.addEventListener("click", () => take(one));
      line.append(button);
      return line;
    }));
    note.textContent = told.why || (words.value.trim() && told.found && !told.found.length ? "nothing fits" : "");
  }
  words.addEventListener("input", () => { clearTimeout(timer); timer = setTimeout(find, 150); });
  form.addEventListener("submit", (event) => { event.preventDefault(); const first = list.querySelector("button"); if (first) first.click(); });
})();
