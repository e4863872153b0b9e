"use strict";
(() => {
  const tools = document.querySelector(".readers");
  if (!tools) return;
  tools.hidden = false;

  // --- code: shown, hidden, or beside what comes of it ---
  const ways = [...tools.querySelectorAll('[name="code"]')];
  const wear = () => { for (const way of ways) document.body.classList.toggle("code-" + way.value, way.checked); };
  ways.forEach((way) => way.addEventListener("change", () => {
    const still = [...document.querySelectorAll("main p, main figure, main h2, main h3")].find((one) => one.getBoundingClientRect().bottom > 60);
    const before = still && still.getBoundingClientRect().top;
    wear();
    if (still) scrollBy(0, still.getBoundingClientRect().top - before);
  }));
  wear();

  // --- controls: the page with other values, out of what lies in it ---
  const form = tools.querySelector(".picks"), held = document.getElementById("worn-states");
  if (!form) return;
  const known = JSON.parse(document.getElementById("worn-values").textContent);
  document.querySelectorAll(".notes").forEach((one) => { one.hidden = !one.querySelector("li"); });
  const unknown = form.querySelector(".unknown");
  const slots = { title: "h1", subtitle: ".subtitle", abstract: ".abstract", keywords: ".keywords", contents: "nav.side, nav.folded details, nav.above", notes: ".notes ol" };
  const own = [], first = {};
  let all = null, now = 0, wished = 0;

  async function unpacked() {
    if (all) return all;
    const bytes = Uint8Array.from(atob(held.textContent), (one) => one.charCodeAt(0));
    const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream("deflate-raw"));
    return (all = JSON.parse(await new Response(stream).text()));
  }
  const holders = (name) => [...document.querySelectorAll(slots[name])];
  const title = (place) => place.querySelector(":scope > .side-title, :scope > summary, :scope > h2, :scope > b");

  // what the page shows at first is taken out of it once, and put back whenever it is wanted again
  function takeUp() {
    const marks = document.createTreeWalker(document.querySelector("main"), NodeFilter.SHOW_COMMENT), found = [];
    while (marks.nextNode()) found.push(marks.currentNode);
    const begins = found.filter((mark) => /^block \d+$/.test(mark.data)), ends = found.filter((mark) => mark.data === "/block");
    const place = document.createElement("div");
    place.className = "blocks";
    begins[0].before(place);
    begins.forEach((begin, at) => {
      const part = document.createDocumentFragment();
      let node = begin.nextSibling;
      while (node !== ends[at]) { const next = node.nextSibling; part.append(node); node = next; }
      own.push([...part.childNodes]);
      const gap = ends[at].nextSibling;
      begin.remove(); ends[at].remove();
      if (gap && gap.nodeType === 3 && !gap.data.trim()) gap.remove();
    });
    for (const name of Object.keys(slots)) first[name] = holders(name).map((one) => inner(one));
    return place;
  }
  const inner = (place) => [...place.childNodes].filter((node) => node !== title(place));
  function fill(place, nodes) {
    inner(place).forEach((node) => node.remove());
    place.append(...nodes);
    const notes = place.closest(".notes");
    if (notes) notes.hidden = !place.children.length;
  }
  function made(html) { const frame = document.createElement("template"); frame.innerHTML = html; return [...frame.content.childNodes]; }

  let place = null;
  function put(at, data) {
    place = place || takeUp();
    const state = at ? data.states[at - 1] : null;
    const blocks = state ? state.blocks.map((one) => one < 0 ? own[-1 - one] : made(data.parts[one])) : own;
    place.replaceChildren(...blocks.flat());
    for (const name of Object.keys(slots)) holders(name).forEach((one, count) => {
      const part = state && state.pieces[name];
      fill(one, state ? (part === undefined ? [] : made(data.parts[part])) : first[name][count]);
    });
    document.title = state ? state.title : known.title;
    document.querySelectorAll(".side-title a").forEach((one) => { one.textContent = document.title; });
  }

  const picks = wornFields(form);
  const same = (one, other) => one === other || (one !== "" && other !== "" && Number(one) === Number(other));
  const number = (given) => known.given.findIndex((one) => Object.keys(one).every((name) => same(one[name], given[name] ?? "")));

  async function show() {
    const given = picks.values(), at = number(given), mine = ++wished;
    unknown.hidden = at >= 0;
    if (at < 0 || at === now) return;
    const data = at ? await unpacked() : all;
    if (mine !== wished) return;
    const above = scrollY;
    put(at, data);
    now = at;
    scrollTo(0, above);
    try { history.replaceState(null, "", at ? "#" + "values=" + encodeURIComponent(JSON.stringify(given)) : location.pathname + location.search); } catch { /* a page in a frame of another may not */ }
  }
  form.addEventListener("input", show);
  form.addEventListener("submit", (event) => event.preventDefault());

  // an address with values begins with them
  const told = /^#values=(.*)$/.exec(location.hash);
  if (told) {
    try {
      picks.set(JSON.parse(decodeURIComponent(told[1])));
      show();
    } catch { /* an address of something else */ }
  }
  if (!("DecompressionStream" in window)) tools.hidden = ways.length === 0, form.hidden = true;
})();
