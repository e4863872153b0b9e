// Keeps a page as it is in its source: takes the parts that changed from the server, leaves all others alone.
"use strict";
// what the tools beside it share
const wornProof = {};
(() => {
  const known = JSON.parse(document.getElementById("worn-known").textContent);
  let version = known.version;
  let parts = [];
  document.head.append(Object.assign(document.createElement("link"), { rel: "icon", href: "data:," }));
  const states = { fresh: "●", stale: "○", running: "▸", failed: "✗" };

  function make(tag, name, parent = document.body) {
    const made = document.createElement(tag);
    made.className = name;
    parent.append(made);
    return made;
  }

  const bar = make("div", "worn-bar");
  bar.setAttribute("role", "status");
  bar.hidden = true;
  const said = make("div", "worn-said");
  said.setAttribute("role", "status");
  said.hidden = true;
  const panel = make("section", "worn-panel");
  panel.setAttribute("aria-label", "Chunks");
  panel.hidden = true;
  const opener = make("button", "worn-open");
  opener.type = "button";
  opener.textContent = "chunks";
  opener.onclick = () => {
    panel.hidden = !panel.hidden;
  };

  // --- parts ---------------------------------------------------------------------------------

  // Each part begins at a comment and ends before the next; a last comment ends them all.
  function findParts() {
    const walker = document.createTreeWalker(document.querySelector("main") || document.body, NodeFilter.SHOW_COMMENT);
    const marks = [];
    while (walker.nextNode()) if (walker.currentNode.data.startsWith(known.mark)) marks.push(walker.currentNode);
    end = marks.pop();
    parts = marks.map((mark, place) => ({ mark, key: known.order[place], at: known.lines[place] }));
  }
  let end = null;

  function nodesOf(place) {
    const stop = place + 1 < parts.length ? parts[place + 1].mark : end;
    const nodes = [];
    for (let node = parts[place].mark; node !== stop; node = node.nextSibling) nodes.push(node);
    return nodes;
  }

  function placeOf(element) {
    return parts.findLastIndex((part) => part.mark.compareDocumentPosition(element) & Node.DOCUMENT_POSITION_FOLLOWING);
  }

  function made(key, html, at) {
    const template = document.createElement("template");
    template.innerHTML = html;
    const mark = document.createComment(known.mark);
    const nodes = [mark, ...template.content.childNodes];
    for (const node of nodes) if (node.nodeType === Node.ELEMENT_NODE) flash(node);
    return { part: { mark, key, at }, nodes };
  }

  function flash(element) {
    element.classList.add("worn-new");
    setTimeout(() => { element.classList.remove("worn-new"); if (!element.className) element.removeAttribute("class"); }, 1700);
  }

  function update(order, lines, fresh) {
    let head = 0;
    while (head < parts.length && head < order.length && parts[head].key === order[head]) head++;
    let tail = 0;
    while (tail < parts.length - head && tail < order.length - head && parts[parts.length - 1 - tail].key === order[order.length - 1 - tail]) tail++;
    const spare = new Map();
    for (let place = head; place < parts.length - tail; place++) {
      const nodes = nodesOf(place);
      const kept = spare.get(parts[place].key) || [];
      kept.push({ part: parts[place], nodes });
      spare.set(parts[place].key, kept);
    }
    const after = tail ? parts[parts.length - tail].mark : end;
    for (const kept of spare.values()) for (const one of kept) one.nodes.forEach((node) => node.remove());
    const middle = [];
    for (let place = head; place < order.length - tail; place++) {
      const kept = (spare.get(order[place]) || []).shift();
      if (!kept && !(order[place] in fresh)) { location.reload(); return; }
      const one = kept || made(order[place], fresh[order[place]], lines[place]);
      after.before(...one.nodes);
      middle.push(one.part);
    }
    parts = [...parts.slice(0, head), ...middle, ...(tail ? parts.slice(-tail) : [])];
    parts.forEach((part, place) => { part.at = lines[place]; });
  }

  // Everything around the parts: title, contents, notes, looks.
  function reframe(text) {
    const wanted = new DOMParser().parseFromString(text, "text/html");
    for (const one of wanted.querySelectorAll('[id^="live-"]')) if (!document.getElementById(one.id)) { location.reload(); return; }
    document.title = wanted.title;
    for (const place of ["header.head", "nav.side", "nav.above", "section.notes"]) {
      const now = document.querySelector(place), next = wanted.querySelector(place);
      if (!now !== !next) { location.reload(); return; }
      if (now && now.outerHTML !== next.outerHTML) now.replaceWith(document.importNode(next, true));
    }
    const looks = document.head.querySelectorAll("style"), wish = wanted.head.querySelectorAll("style");
    if (looks.length !== wish.length) { location.reload(); return; }
    looks.forEach((style, place) => { if (style.textContent !== wish[place].textContent) style.textContent = wish[place].textContent; });
  }

  // --- what is told --------------------------------------------------------------------------

  function show(state) {
    const waiting = state.chunks.filter((chunk) => chunk.state === "stale").map((chunk) => chunk.label);
    const wrong = state.problems.filter((problem) => problem.severity === "error");
    bar.hidden = !state.busy && !wrong.length;
    bar.classList.toggle("worn-wrong", !state.busy && wrong.length > 0);
    bar.textContent = state.busy ? `running ${state.busy}${waiting.length ? ` · next: ${waiting.slice(0, 4).join(", ")}` : ""}`
      : wrong.length ? `${wrong[0].file}:${wrong[0].line}:${wrong[0].column}: ${wrong[0].what}` : "";
    showProblems(state.problems);
    showChunks(state.chunks);
  }

  function showProblems(problems) {
    document.querySelectorAll(".worn-problem").forEach((box) => box.remove());
    for (const problem of problems) {
      const box = document.createElement("aside");
      box.className = "worn-problem" + (problem.severity === "error" ? "" : " worn-mild");
      const place = document.createElement("b");
      place.textContent = `${problem.file}:${problem.line}:${problem.column}`;
      const stop = /[.?!]$/.test(problem.what) ? "" : ".";
      box.append(place, ` ${problem.what}${stop} ${problem.hint}`);
      if (problem.detail) { const detail = document.createElement("pre"); detail.textContent = problem.detail; box.append(detail); }
      const above = parts.filter((part) => part.at[0] === problem.file && part.at[1] <= problem.line).pop();
      const place_ = above ? parts.indexOf(above) + 1 : 0;
      const before = place_ < parts.length ? parts[place_].mark : end;
      if (before) before.before(box); else document.body.prepend(box);
    }
  }

  function showChunks(chunks) {
    const table = document.createElement("table");
    for (const chunk of chunks) {
      const row = table.insertRow();
      const time = chunk.seconds === null ? "" : chunk.seconds < 0.0095 ? `${Math.round(chunk.seconds * 1000)} ms` : `${chunk.seconds.toFixed(2)} s`;
      for (const [text, name] of [[states[chunk.state] || "", ""], [chunk.label, ""], [chunk.state, ""], [time, "time"]]) {
        const cell = row.insertCell();
        cell.textContent = text;
        cell.className = name;
      }
      row.title = chunk.why;
    }
    const old = panel.querySelector("table");
    if (old) old.replaceWith(table); else graph.before(table);
    drawGraph();
  }

  // --- the graph: in a window of its own, which it fills, to be moved about and looked at closely -------
  const graph = make("button", "worn-graph-opener", panel);
  graph.type = "button";
  graph.textContent = "what flows where";
  const dialog = make("dialog", "worn-graph");
  const view = make("div", "worn-graph-view", dialog);
  view.tabIndex = 0;
  view.setAttribute("aria-label", "What flows where: drag or arrow keys move it, + and - change its size, 0 shows all");
  const picture = make("img", "", view);
  picture.alt = "What flows where";
  const shut = make("button", "worn-graph-shut", dialog);
  shut.type = "button";
  shut.textContent = "close";
  shut.onclick = () => dialog.close();
  const at = { x: 0, y: 0, k: 1 };
  const lay = () => { picture.style.transform = `translate(${at.x}px, ${at.y}px) scale(${at.k})`; };
  function fit() {
    const wide = picture.naturalWidth || 1, high = picture.naturalHeight || 1;
    at.k = Math.min(2, view.clientWidth / wide, view.clientHeight / high);
    at.x = (view.clientWidth - wide * at.k) / 2;
    at.y = (view.clientHeight - high * at.k) / 2;
    lay();
  }
  function closer(times, x = view.clientWidth / 2, y = view.clientHeight / 2) {
    const k = Math.min(8, Math.max(0.05, at.k * times));
    at.x = x - (x - at.x) * k / at.k;
    at.y = y - (y - at.y) * k / at.k;
    at.k = k;
    lay();
  }
  view.addEventListener("wheel", (event) => { event.preventDefault(); closer(event.deltaY < 0 ? 1.15 : 1 / 1.15, event.offsetX, event.offsetY); }, { passive: false });
  view.addEventListener("pointerdown", (event) => { event.preventDefault(); view.focus(); view.setPointerCapture(event.pointerId); });
  view.addEventListener("pointermove", (event) => { if (!view.hasPointerCapture(event.pointerId)) return; at.x += event.movementX; at.y += event.movementY; lay(); });
  view.addEventListener("keydown", (event) => {
    const move = { ArrowLeft: [60, 0], ArrowRight: [-60, 0], ArrowUp: [0, 60], ArrowDown: [0, -60] }[event.key];
    if (move) { at.x += move[0]; at.y += move[1]; lay(); }
    else if (event.key === "+") closer(1.25);
    else if (event.key === "-") closer(0.8);
    else if (event.key === "0") fit();
    else return;
    event.preventDefault();
  });
  graph.onclick = () => { dialog.showModal(); drawGraph(); };
  function drawGraph() {
    if (!dialog.open) return;
    const begins = !picture.getAttribute("src");
    picture.onload = () => { if (begins) fit(); };
    picture.src = `graph.svg?${version}`;
  }

  // --- where it is written -------------------------------------------------------------------

  document.addEventListener("click", (event) => {
    if (event.target.closest("a, button, summary, input, .worn-panel, .worn-bar, dialog") || String(getSelection())) return;
    const under = placeOf(event.target);
    if (under < 0 || !event.target.closest("main")) return;
    const place = parts[under].at.join(":");
    const copied = navigator.clipboard ? navigator.clipboard.writeText(place) : Promise.reject();
    copied.then(() => tell(`${place} copied`), () => tell(place));
  });

  let fading = 0;
  function tell(words) {
    said.textContent = words;
    said.hidden = false;
    clearTimeout(fading);
    fading = setTimeout(() => { said.hidden = true; }, 2500);
  }

  async function ask(path, data) {
    try {
      const answer = await fetch(path, data ? { method: "POST", body: JSON.stringify(data) } : {});
      const told = await answer.json().catch(() => ({}));
      return answer.ok ? told : { why: told.why || "the proof cannot be reached." };
    } catch { return { why: "the proof cannot be reached." }; }
  }
  Object.assign(wornProof, { placeOf, nodesOf, panel, opener, tell, ask });

  // --- sheets --------------------------------------------------------------------------------

  let sheets = null;
  function showSheets(number) {
    if (!known.pdf) return;
    document.body.classList.add("worn-two");
    const next = document.createElement("iframe");
    next.className = "worn-sheets";
    next.title = "PDF";
    next.src = `page.pdf?${number}#navpanes=0&view=FitH`;
    document.body.append(next);
    if (sheets) { const old = sheets; next.onload = () => old.remove(); }
    sheets = next;
  }

  // --- events --------------------------------------------------------------------------------

  if (known.order) findParts();
  if (known.pdf && known.order) showSheets(version);
  const events = new EventSource("events");
  events.addEventListener("hello", (event) => {
    const told = JSON.parse(event.data);
    if (told.version !== version) location.reload();
    show(told);
  });
  events.addEventListener("page", (event) => {
    const told = JSON.parse(event.data);
    if (told.before !== version || !known.order) { location.reload(); return; }
    document.querySelectorAll(".worn-problem").forEach((box) => box.remove());
    update(told.order, told.lines, told.new);
    if (told.shell) reframe(told.shell);
    version = told.version;
    document.documentElement.dataset.wornVersion = version;
  });
  events.addEventListener("state", (event) => show(JSON.parse(event.data)));
  events.addEventListener("pdf", (event) => showSheets(JSON.parse(event.data).version));
  document.documentElement.dataset.wornVersion = version;
})();
