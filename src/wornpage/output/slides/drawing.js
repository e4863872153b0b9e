// Drawing over slides and on boards: pens, marker, rubber, undo; kept with the slide, saved to a file and loaded again.
(() => {
  const { root, known, words, slides, state, made, on, show } = worn;
  const space = "http://www.w3.org/2000/svg";
  const colours = ["#1d2024", "#c0392b", "#1c5a63", "#2e7d32", "#d98a00", "#ffffff"];
  const drawn = { slides: {}, boards: [] };
  const mine = { tool: "pen", colour: colours[1], width: 4 };
  let past = [], coming = [];
  let stroke = null, rubbing = null;

  // --- where strokes are kept -------------------------------------------------------------------
  const key = () => (state.board >= 0 ? `board:${state.board}` : slides[state.at].dataset.address);
  const isBoard = (name) => /^board:\d+$/.test(name);
  const strokes = (name) => (isBoard(name) ? drawn.boards[Number(name.slice(6))] : drawn.slides[name]) || [];
  function keep(name, kept) {
    if (!isBoard(name)) drawn.slides[name] = kept;
    else { while (drawn.boards.length <= Number(name.slice(6))) drawn.boards.push([]); drawn.boards[Number(name.slice(6))] = kept; }
  }
  function put(name, kept, from = "here") {
    keep(name, kept);
    paint(name);
    worn.tell("drawn", { name, strokes: kept }, from);
  }
  function change(name, kept) {
    past.push({ name, kept: strokes(name) });
    coming = [];
    put(name, kept);
  }
  function back(from, to) {
    const last = from.pop();
    if (!last) return;
    to.push({ name: last.name, kept: strokes(last.name) });
    put(last.name, last.kept);
  }

  // --- painting ---------------------------------------------------------------------------------
  const sheets = {};
  function board(at) {
    while (drawn.boards.length <= at) drawn.boards.push([]);
    const name = `board:${at}`;
    if (!sheets[name]) {
      const section = made("section", { class: "slide board", "data-board": at, "aria-label": `${words.board} ${at + 1}`, role: "group", "data-run": "" }, made("div", { class: "sheet" }));
      document.getElementById("deck").append(section);
      sheets[name] = section;
    }
    return sheets[name];
  }
  function surface(name) {
    const slide = isBoard(name) ? board(Number(name.slice(6))) : slides.find((one) => one.dataset.address === name);
    if (!slide) return null;
    const sheet = slide.querySelector(".sheet");
    let svg = sheet.querySelector(":scope > .drawn");
    if (!svg) {
      svg = document.createElementNS(space, "svg");
      svg.setAttribute("class", "drawn");
      svg.setAttribute("viewBox", `0 0 ${known.width} ${known.height}`);
      svg.setAttribute("aria-hidden", "true");
      svg.dataset.run = "";
      sheet.append(svg);
    }
    return svg;
  }
  const near = (number) => Math.round(number * 10) / 10;
  function outline(one) {
    // A pen's line is as wide as the pressure was: two edges, and a round end.
    const p = one.p, half = (at) => Math.max(one.w * (0.35 + 0.65 * p[at + 2] * 1.6) / 2, 0.4);
    if (p.length === 3) { const r = near(half(0) + 0.6); return `M${p[0] - r} ${p[1]}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`; }
    const left = [], right = [];
    for (let at = 0; at < p.length; at += 3) {
      const a = Math.max(at - 3, 0), b = Math.min(at + 3, p.length - 3);
      const dx = p[b] - p[a], dy = p[b + 1] - p[a + 1], far = Math.hypot(dx, dy) || 1, r = half(at);
      left.push([near(p[at] - dy / far * r), near(p[at + 1] + dx / far * r)]);
      right.unshift([near(p[at] + dy / far * r), near(p[at + 1] - dx / far * r)]);
    }
    const end = near(half(p.length - 3)), begin = near(half(0));
    const line = (points) => points.map((point) => point.join(" ")).join("L");
    return `M${line(left)}A${end} ${end} 0 0 0 ${right[0].join(" ")}L${line(right)}A${begin} ${begin} 0 0 0 ${left[0].join(" ")}Z`;
  }
  function path(one) {
    const shape = document.createElementNS(space, "path");
    if (one.t === "marker") {
      const points = [];
      for (let at = 0; at < one.p.length; at += 3) points.push(`${one.p[at]} ${one.p[at + 1]}`);
      if (points.length === 1) points.push(points[0]);
      shape.setAttribute("d", "M" + points.join("L"));
      shape.setAttribute("fill", "none");
      shape.setAttribute("stroke", one.c);
      shape.setAttribute("stroke-width", one.w);
      shape.setAttribute("stroke-linecap", "round");
      shape.setAttribute("stroke-linejoin", "round");
      shape.setAttribute("class", "marker");
    } else {
      shape.setAttribute("d", outline(one));
      shape.setAttribute("fill", one.c);
    }
    return shape;
  }
  function paint(name) {
    const svg = surface(name);
    if (svg) svg.replaceChildren(...strokes(name).map(path));
  }

  // --- drawing ----------------------------------------------------------------------------------
  const now = () => (state.board >= 0 ? board(state.board) : slides[state.at]);
  function place(event) {
    const box = now().querySelector(".sheet").getBoundingClientRect();
    const k = box.width / known.width;
    return [near((event.clientX - box.left) / k), near((event.clientY - box.top) / k), event.pointerType === "mouse" || !event.pressure ? 0.5 : Math.round(event.pressure * 100) / 100];
  }
  function begins(event) {
    if (!root.classList.contains("drawing") || event.button > 0 || !event.target.closest?.(".sheet") || event.target.closest(".pane")) return;
    event.preventDefault();
    document.getElementById("deck").setPointerCapture?.(event.pointerId);
    const at = place(event);
    if (mine.tool === "rubber" || event.buttons === 32) rubbing = { name: key(), before: strokes(key()), at }, rub(at);
    else stroke = { name: key(), one: { t: mine.tool, c: mine.colour, w: mine.tool === "marker" ? 22 : mine.width, p: at }, id: event.pointerId, shape: null };
    if (stroke) live();
  }
  let told = 0;
  function live() {
    const svg = surface(stroke.name), shape = path(stroke.one);
    if (stroke.shape) stroke.shape.replaceWith(shape); else svg.append(shape);
    stroke.shape = shape;
    if (Date.now() - told > 60) { told = Date.now(); worn.tell("drawn", { name: stroke.name, live: stroke.one }, "here"); }
  }
  function moves(event) {
    if (rubbing) {
      // A quick hand is told of in leaps: what lies between is rubbed too.
      const to = place(event), from = rubbing.at, far = Math.hypot(to[0] - from[0], to[1] - from[1]), parts = Math.max(Math.ceil(far / 10), 1);
      for (let part = 1; part <= parts; part++) rub([from[0] + (to[0] - from[0]) * part / parts, from[1] + (to[1] - from[1]) * part / parts]);
      rubbing.at = to;
      return;
    }
    if (!stroke || event.pointerId !== stroke.id) return;
    const p = stroke.one.p;
    for (const one of event.getCoalescedEvents?.().length ? event.getCoalescedEvents() : [event]) {
      const at = place(one);
      if (Math.hypot(at[0] - p[p.length - 3], at[1] - p[p.length - 2]) >= 1.2) p.push(...at);
    }
    live();
  }
  function ends() {
    if (rubbing) {
      if (strokes(rubbing.name) !== rubbing.before) { past.push({ name: rubbing.name, kept: rubbing.before }); coming = []; worn.tell("drawn", { name: rubbing.name, strokes: strokes(rubbing.name) }, "here"); }
      rubbing = null;
    }
    if (stroke) { const { name, one } = stroke; stroke = null; change(name, [...strokes(name), one]); }
  }
  function rub([x, y]) {
    // What lies under the rubber goes; what is left of a stroke stays as strokes of its own.
    const kept = [];
    let touched = false;
    for (const one of strokes(rubbing.name)) {
      const runs = [[]];
      for (let at = 0; at < one.p.length; at += 3) {
        const b = at + 3 < one.p.length ? at + 3 : at;
        const dx = one.p[b] - one.p[at], dy = one.p[b + 1] - one.p[at + 1];
        const t = Math.min(Math.max(((x - one.p[at]) * dx + (y - one.p[at + 1]) * dy) / (dx * dx + dy * dy || 1), 0), 1);
        const gone = Math.hypot(one.p[at] - x, one.p[at + 1] - y) < 16 + one.w / 2, crossed = Math.hypot(one.p[at] + t * dx - x, one.p[at + 1] + t * dy - y) < 16 + one.w / 2;
        if (!gone) runs[runs.length - 1].push(...one.p.slice(at, at + 3));
        if (gone || crossed) { touched = true; runs.push([]); }
      }
      if (runs.length === 1) kept.push(one);
      else kept.push(...runs.filter((run) => run.length > 3).map((run) => ({ ...one, p: run })));
    }
    if (touched) { keep(rubbing.name, kept); paint(rubbing.name); }
  }
  const deck = document.getElementById("deck");
  deck.addEventListener("pointerdown", begins);
  deck.addEventListener("pointermove", moves);
  addEventListener("pointerup", ends);
  addEventListener("pointercancel", ends);

  // --- boards -----------------------------------------------------------------------------------
  let last = 0;
  function toBoard(at) { last = at; board(at); show({ ...state, black: false, board: at }); }
  on("board", (by) => {
    const at = state.board + by;
    if (at >= 0 && at < drawn.boards.length) toBoard(at);
  });
  on("state", (here) => {
    if (here.board >= 0) board(here.board);
    for (const section of Object.values(sheets)) section.classList.toggle("now", Number(section.dataset.board) === here.board);
    if (here.board >= 0) slides[here.at].classList.remove("now");
    boardTool?.setAttribute("aria-pressed", here.board >= 0);
  });
  const toggleBoard = () => (state.board >= 0 ? show({ ...state, board: -1 }) : toBoard(Math.min(last, Math.max(drawn.boards.length - 1, 0))));

  // --- files ------------------------------------------------------------------------------------
  function download(name, text, type) {
    const link = made("a", { href: URL.createObjectURL(new Blob([text], { type })), download: name });
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 60000);
  }
  const stem = () => (decodeURIComponent(location.pathname).split("/").pop() || "slides").replace(/(\.slides)?\.html$/, "") || "slides";
  function all() {
    const kept = Object.fromEntries(Object.entries(drawn.slides).filter(([, many]) => many.length));
    return { slides: kept, boards: drawn.boards };
  }
  const save = () => download(`${stem()}.drawn.json`, JSON.stringify(all()), "application/json");
  function savePage() {
    const copy = root.cloneNode(true);
    copy.className = "";
    copy.removeAttribute("style");
    copy.querySelectorAll("[data-run]").forEach((one) => one.remove());
    copy.querySelectorAll(".live iframe, .moves > :not(.still, script)").forEach((one) => one.remove());
    copy.querySelectorAll("[data-known]").forEach((one) => { delete one.dataset.known; one.classList.remove("lives", "moves"); });
    copy.querySelectorAll(".now, .near, .later, .dim, .in-turn").forEach((one) => one.classList.remove("now", "near", "later", "dim", "in-turn"));
    copy.querySelector(".slide").classList.add("now");
    copy.querySelector("#worn-drawn").textContent = JSON.stringify(all()).replace(/</g, "\\u003c");
    download(`${stem()}.slides.html`, "<!DOCTYPE html>\n" + copy.outerHTML + "\n", "text/html");
  }
  function isStroke(one) {
    return one && ["pen", "marker"].includes(one.t) && /^#[0-9a-f]{6}$/.test(one.c) && one.w > 0 && one.w < 200 && Array.isArray(one.p) && one.p.length >= 3 && one.p.length % 3 === 0 && one.p.every(Number.isFinite);
  }
  function take(found) {
    const many = [...Object.values(found.slides), ...(found.boards || [])];
    if (!many.every((list) => Array.isArray(list) && list.every(isStroke))) throw new Error("no strokes");
    for (const [name, kept] of Object.entries(found.slides)) put(name, kept, "file");
    (found.boards || []).forEach((kept, at) => { board(at); put(`board:${at}`, kept, "file"); });
  }
  const picker = made("input", { type: "file", accept: ".json,application/json", hidden: true, "data-run": "", "aria-label": words.load, onchange: async () => {
    try { take(JSON.parse(await picker.files[0].text())); }
    catch { worn.dialog(words.unfit, made("p", {}, words.unfit), made("form", { method: "dialog" }, made("button", {}, words.close))); }
    picker.value = "";
  } });

  // --- tools ------------------------------------------------------------------------------------
  let tray = null, boardTool = null, pens = [];
  function chosen() {
    pens.forEach(([button, is]) => button.setAttribute("aria-pressed", is()));
  }
  function drawing(wanted = !root.classList.contains("drawing")) {
    root.classList.toggle("drawing", wanted);
    if (wanted) worn.root.classList.remove("all", "listed");
    tray.hidden = !wanted;
    chosen();
    worn.fit();
  }
  on("escape", () => { if (state.board >= 0) toggleBoard(); else drawing(false); });
  on("tools", (tool) => {
    if (known.following) return;
    const one = tool("drawing", () => drawing());
    pens.push([one, () => root.classList.contains("drawing")]);
    boardTool = tool("board", toggleBoard);
    tray = made("div", { class: "more", hidden: true });
    const add = (name, act, is) => {
      const button = worn.button(name, () => { act(); chosen(); });
      tray.append(button);
      if (is) pens.push([button, is]);
      return button;
    };
    add("pen", () => { mine.tool = "pen"; }, () => mine.tool === "pen");
    add("marker", () => { mine.tool = "marker"; }, () => mine.tool === "marker");
    add("rubber", () => { mine.tool = "rubber"; }, () => mine.tool === "rubber");
    for (const colour of colours) {
      const button = add("colour", () => { mine.colour = colour; if (mine.tool === "rubber") mine.tool = "pen"; }, () => mine.colour === colour);
      button.className = "colour";
      button.style.background = colour;
      button.setAttribute("aria-label", `${words.colour} ${colour}`);
    }
    add("undo", () => back(past, coming));
    add("redo", () => back(coming, past));
    add("clear", () => { if (strokes(key()).length) change(key(), []); });
    add("sheet", () => toBoard(drawn.boards.length));
    add("keep", save);
    add("load", () => picker.click());
    add("page", savePage);
    worn.added(picker);
  });
  on("start", () => {
    const tools = document.querySelector(".tools");
    if (tray) tools.append(tray);
  });
  if (!known.following) worn.deeds.push(["drawing", ["d"], () => drawing()], ["board", ["w"], toggleBoard], ["undo", ["u"], () => back(past, coming)], ["redo", ["y"], () => back(coming, past)], ["keep", ["k"], save]);

  // --- what others draw, and what was drawn before ----------------------------------------------
  on("take", ({ name, strokes: kept, live: one, everything }, from) => {
    if (everything) { for (const [where, many] of Object.entries(everything.slides)) { keep(where, many); paint(where); } everything.boards.forEach((many, at) => { board(at); keep(`board:${at}`, many); paint(`board:${at}`); }); return; }
    if (kept) { keep(name, kept); paint(name); return; }
    const svg = surface(name), shape = path(one);
    const before = svg?.querySelector(".coming");
    shape.classList.add("coming");
    if (before) before.replaceWith(shape); else svg?.append(shape);
  });
  on("all-drawn", (give) => give({ everything: all() }));
  try { take(JSON.parse(document.getElementById("worn-drawn").textContent || "{}")); } catch { /* nothing was drawn */ }
})();
