// Shows slides one by one. The file can be read without this script; nothing is fetched.
"use strict";
const worn = (() => {
  const root = document.documentElement;
  const known = JSON.parse(document.getElementById("worn-deck").textContent);
  const words = known.words;
  const slides = [...document.querySelectorAll(".deck > .slide")];
  const state = { at: 0, step: 0, black: false, board: -1 };
  const heard = {};
  const rtl = root.dir === "rtl";

  // --- who wants to know ------------------------------------------------------------------------
  const on = (name, call) => (heard[name] ||= []).push(call);
  const tell = (name, ...data) => (heard[name] || []).forEach((call) => call(...data));

  // --- small helps ------------------------------------------------------------------------------
  function made(tag, attributes = {}, ...inner) {
    const element = document.createElement(tag);
    for (const [name, value] of Object.entries(attributes)) {
      if (name.startsWith("on")) element.addEventListener(name.slice(2), value);
      else if (value === true) element.setAttribute(name, "");
      else if (value !== false && value != null) element.setAttribute(name, value);
    }
    element.append(...inner);
    return element;
  }
  const signs = { // lines on a square of 24
    back: "M15 5l-7 7 7 7", next: "M9 5l7 7-7 7", overview: "M4 4h7v7H4zM13 4h7v7h-7zM4 13h7v7H4zM13 13h7v7h-7z", full: "M4 9V4h5M15 4h5v5M20 15v5h-5M9 20H4v-5",
    keys: "M8.5 9a3.5 3.5 0 1 1 5 3.2c-1.2.6-1.5 1.1-1.5 2.3M12 18.5v.5", speaker: "M12 11a3.5 3.5 0 1 0-.1 0M5 20c.6-4.5 3.2-6 7-6s6.400 1.500 7 6", drawing: "M4 20l1.200-5L16 4.200l3.800 3.800L9 18.800z",
    board: "M3 5h18v11H3zM8 21l1.500-5M16 21l-1.500-5", pen: "M4 20c4-.8 6-2 8-4l6-8.500L14.500 4 6 10c-2 2-1.200 6-2 10zM4 20l5.500-5.500", marker: "M4 20.500h16M7.500 16l7.500-11 4.500 3L12 18.500z", rubber: "M8 19l-4-4L13 5l7 6-8 8zM9 9.500l7 6.500M12 19h8",
    undo: "M9 4L4 9l5 5M4 9h9a5 5 0 0 1 0 10h-3", redo: "M15 4l5 5-5 5M20 9h-9a5 5 0 0 0 0 10h3", clear: "M6 6l12 12M18 6L6 18", sheet: "M12 5v14M5 12h14", keep: "M12 4v11M7 10l5 5 5-5M5 20h14", load: "M12 16V5M7 10l5-5 5 5M5 20h14",
    page: "M6 3h8l4 4v14H6zM14 3v4h4M9 12h6M9 16h6", follow: "M4 4h6v6H4zM14 4h6v6h-6zM4 14h6v6H4zM14 14h2.500v2.500H14zM18 18h2v2h-2zM19 14v1M14 19v1",
  };
  function sign(name) {
    const svg = document.createElementNS("http://www.w3.org/2000/svg", "svg");
    const line = document.createElementNS("http://www.w3.org/2000/svg", "path");
    svg.setAttribute("viewBox", "0 0 24 24");
    svg.setAttribute("aria-hidden", "true");
    svg.setAttribute("class", "sign");
    line.setAttribute("d", signs[name]);
    svg.append(line);
    return svg;
  }
  const added = (element) => { element.dataset.run = ""; document.body.append(element); return element; };
  const decoded = (text) => { try { return decodeURIComponent(text); } catch { return text; } };
  const steps = (slide) => Number(slide.dataset.steps) || 0;
  const listed = () => root.classList.contains("listed");

  // --- one slide at one step --------------------------------------------------------------------
  function stage(slide, step) {
    for (const part of slide.querySelectorAll("[data-step]")) part.classList.toggle("later", Number(part.dataset.step) > step);
    for (const block of slide.querySelectorAll(".turns")) {
      const count = Number(block.dataset.turns);
      const turn = String(Math.min(Math.max(step - Number(block.dataset.after) + 1, 1), count));
      const lines = [...block.querySelectorAll(".line")];
      const chosen = lines.map((line) => (line.dataset.turns || "").split(" ").includes(turn));
      const all = chosen.every(Boolean);
      lines.forEach((line, at) => {
        line.classList.toggle("in-turn", chosen[at] && !all);
        line.classList.toggle("dim", !chosen[at]);
      });
    }
  }

  function show(next, from = "here") {
    const at = Math.min(Math.max(next.at ?? state.at, 0), slides.length - 1);
    const step = Math.min(Math.max(next.step ?? 0, 0), steps(slides[at]));
    const before = slides[state.at];
    const turned = at !== state.at;
    Object.assign(state, { at, step, black: next.black ?? false, board: next.board ?? -1 });
    if (turned) before.classList.remove("now");
    slides[at].classList.add("now");
    stage(slides[at], step);
    root.classList.toggle("black", state.black);
    if (listed() && turned) slides[at].scrollIntoView({ block: "start" });
    const address = "#" + slides[at].dataset.address;
    if (turned && decoded(location.hash) !== address) history.replaceState(null, "", address);
    if (turned) ready(at);
    tell("state", state, from, turned);
  }
  let near = [], later = 0;
  function ready(at) {
    // The slides beside this one are laid out while nothing else is to be done, so that they show at once.
    cancel(later);
    later = idle(() => {
      const now = [slides[at + 1], slides[at - 1]].filter(Boolean);
      near.filter((slide) => !now.includes(slide)).forEach((slide) => slide.classList.remove("near"));
      now.forEach((slide) => slide.classList.add("near"));
      near = now;
    });
  }
  const idle = window.requestIdleCallback ? (call) => requestIdleCallback(call, { timeout: 400 }) : (call) => setTimeout(call, 60);
  const cancel = window.cancelIdleCallback ? (number) => cancelIdleCallback(number) : clearTimeout;

  function go(by) {
    if (state.black) return show({ ...state, black: false });
    if (state.board >= 0) return tell("board", by);
    const step = state.step + by;
    if (!listed() && step >= 0 && step <= steps(slides[state.at])) return show({ at: state.at, step });
    const at = state.at + by;
    if (at >= 0 && at < slides.length) show({ at, step: by < 0 ? steps(slides[at]) : 0 });
  }
  const turn = (by) => show({ at: state.at + by, step: 0 });

  // --- addresses --------------------------------------------------------------------------------
  function find(hash) {
    const name = decoded(hash.replace(/^#/, ""));
    if (!name) return -1;
    const named = slides.findIndex((slide) => slide.dataset.address === name);
    if (named >= 0) return named;
    const inside = document.getElementById(name)?.closest(".slide");
    if (inside) return slides.indexOf(inside);
    return /^\d+$/.test(name) ? Math.min(Math.max(Number(name), 1), slides.length) - 1 : -1;
  }
  addEventListener("hashchange", () => {
    const at = find(location.hash);
    if (at >= 0) show({ at, step: document.getElementById(decoded(location.hash.slice(1))) ? steps(slides[at]) : 0 });
  });

  // --- room -------------------------------------------------------------------------------------
  let pane = () => ({ left: 0, top: 0, width: innerWidth, height: innerHeight });
  function fit() {
    const room = pane();
    const k = Math.min(room.width / known.width, room.height / known.height);
    root.style.setProperty("--k", k);
    root.style.setProperty("--x", room.left + (room.width - k * known.width) / 2 + "px");
    root.style.setProperty("--y", room.top + (room.height - k * known.height) / 2 + "px");
  }
  const upright = matchMedia("(max-width: 640px) and (orientation: portrait)");
  function asList(wanted) {
    root.classList.toggle("listed", wanted);
    root.classList.remove("all");
    if (wanted) slides[state.at].scrollIntoView({ block: "start" });
    fit();
  }
  addEventListener("resize", fit);
  upright.addEventListener("change", () => asList(upright.matches));
  let passed = 0;
  addEventListener("scroll", () => {
    if (listed()) stir();
    if (!listed() || passed) return;
    passed = requestAnimationFrame(() => {
      passed = 0;
      const middle = innerHeight / 3;
      const at = slides.findIndex((slide) => slide.getBoundingClientRect().bottom > middle);
      if (at >= 0 && at !== state.at) { slides[state.at].classList.remove("now"); state.at = at; state.step = 0; slides[at].classList.add("now"); tell("state", state, "here", true); }
    });
  }, { passive: true });

  // --- all at once, a number, keys, black -------------------------------------------------------
  function all(wanted = !root.classList.contains("all")) {
    root.classList.remove("listed");
    root.classList.toggle("all", wanted);
    if (wanted) slides[state.at].scrollIntoView({ block: "center" });
  }
  document.getElementById("deck").addEventListener("click", (event) => {
    const slide = event.target.closest(".slide");
    if (!root.classList.contains("all") || !slide || slide.closest(".pane")) return;
    event.preventDefault();
    all(false);
    show({ at: slides.indexOf(slide) });
  });
  let asked = null;
  function dialog(title, ...inner) {
    asked?.remove();
    asked = added(made("dialog", { "aria-label": title, onclose: () => { asked.remove(); asked = null; } }, ...inner));
    asked.showModal();
    return asked;
  }
  function jump() {
    const field = made("input", { inputmode: "numeric", "aria-label": words.jump, value: state.at + 1 });
    const form = made("form", { method: "dialog", onsubmit: () => { const at = find(field.value.trim()); if (at >= 0) show({ at }); } },
      made("label", {}, words.jump + " ", field), " / " + slides.length);
    dialog(words.jump, form);
    field.select();
  }
  const black = () => show({ ...state, black: !state.black });
  const full = () => (document.fullscreenElement ? document.exitFullscreen() : root.requestFullscreen?.());

  /* What can be done: name of the word, its keys, what it does. Other parts of the script add theirs. */
  const deeds = [
    ["next", ["ArrowRight", "ArrowDown", "PageDown", " ", "n"], () => go(1)],
    ["back", ["ArrowLeft", "ArrowUp", "PageUp", "Backspace", "p"], () => go(-1)],
    ["overview", ["o"], () => all()],
    ["jump", ["g"], jump],
    ["list", ["l"], () => asList(!listed())],
    ["full", ["f"], full],
    ["black", ["b", "."], black],
    ["print", ["e"], () => print()],
    ["keys", ["?", "h"], help],
  ];
  function help() {
    const shown = { " ": "␣", ArrowRight: "→", ArrowLeft: "←", ArrowUp: "↑", ArrowDown: "↓", PageUp: "PgUp", PageDown: "PgDn", Backspace: "⌫" };
    const rows = deeds.filter(([, keys]) => keys.length).map(([name, keys]) =>
      made("tr", {}, made("th", { scope: "row" }, words[name]), made("td", {}, ...keys.flatMap((key) => [made("kbd", {}, shown[key] || key), " "]))));
    dialog(words.keys, made("table", {}, made("tbody", {}, ...rows)), made("form", { method: "dialog" }, made("button", { autofocus: true }, words.close)));
  }
  let digits = "";
  let waiting = 0;
  addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || asked) return;
    const field = event.target.closest?.("input, textarea, select, [contenteditable], summary, button, a");
    if (field && (field.matches("input, textarea, select, [contenteditable]") || event.key === " " || event.key === "Enter")) return;
    if (event.target.closest?.("pre, .scroll") && event.key.startsWith("Arrow") && listed()) return;
    if (/^\d$/.test(event.key)) {
      digits += event.key;
      clearTimeout(waiting);
      waiting = setTimeout(() => { digits = ""; }, 2500);
      return;
    }
    if (event.key === "Enter" && digits) { show({ at: Number(digits) - 1 }); digits = ""; return; }
    if (event.key === "Enter" && root.classList.contains("all")) { all(false); return; }
    if (event.key === "Escape") { if (root.classList.contains("all")) all(false); else tell("escape"); return; }
    if (event.key === "Home") { event.preventDefault(); return show({ at: 0 }); }
    if (event.key === "End") { event.preventDefault(); return show({ at: slides.length - 1 }); }
    let key = event.key;
    if (rtl && (key === "ArrowLeft" || key === "ArrowRight")) key = key === "ArrowLeft" ? "ArrowRight" : "ArrowLeft";
    if (root.classList.contains("all") && key.startsWith("Arrow")) { event.preventDefault(); turn(/Right|Down/.test(key) ? 1 : -1); slides[state.at].scrollIntoView({ block: "nearest" }); return; }
    if (listed() && (key === " " || /Up|Down/.test(key))) return; // the list scrolls
    const deed = deeds.find(([, keys]) => keys.includes(key));
    if (deed) { event.preventDefault(); deed[2](); }
  });

  // a key that a figure in a frame has no use for is one of ours
  addEventListener("message", (event) => {
    const key = event.data?.worn?.key;
    const frame = typeof key === "string" && [...document.querySelectorAll(".live iframe")].find((one) => one.contentWindow === event.source);
    if (frame) document.body.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }));
  });

  // --- fingers ----------------------------------------------------------------------------------
  let touched = null;
  addEventListener("touchstart", (event) => {
    const one = event.touches.length === 1 && !root.classList.contains("drawing") && !event.target.closest(".tools, dialog, .scroll, input, button, a");
    touched = one ? { x: event.touches[0].clientX, y: event.touches[0].clientY } : null;
  }, { passive: true });
  addEventListener("touchend", (event) => {
    if (!touched || listed() || root.classList.contains("all")) return;
    const x = event.changedTouches[0].clientX - touched.x;
    const y = event.changedTouches[0].clientY - touched.y;
    if (Math.abs(x) > 45 && Math.abs(x) > 1.6 * Math.abs(y)) go((x < 0) !== rtl ? 1 : -1);
    stir();
  }, { passive: true });

  // --- tools ------------------------------------------------------------------------------------
  let still = 0;
  function stir() {
    root.classList.add("stirred");
    clearTimeout(still);
    still = setTimeout(() => root.classList.remove("stirred"), 2600);
  }
  addEventListener("mousemove", stir);
  const tools = made("nav", { class: "tools", "aria-label": words.slides });
  function button(name, act) {
    return made("button", { type: "button", title: words[name], "aria-label": words[name], onclick: act }, ...(signs[name] ? [sign(rtl && name === "back" ? "next" : rtl && name === "next" ? "back" : name)] : []));
  }
  function tool(name, act) {
    const one = button(name, act);
    tools.append(one);
    return one;
  }
  const count = made("span", { class: "count", "aria-hidden": "true" });
  const said = made("div", { class: "unseen", role: "status", "aria-live": "polite" });
  function start() {
    tool("back", () => go(-1));
    tools.append(count);
    tool("next", () => go(1));
    tool("overview", () => all());
    tell("tools", tool);
    tool("full", full);
    tool("keys", help);
    added(tools);
    added(made("div", { class: "black-screen", onclick: black }));
    added(said);
    if (known.motion) root.classList.add("fading");
    root.classList.toggle("listed", upright.matches);
    tell("start");
    fit();
    const at = find(location.hash);
    slides.forEach((slide) => slide.classList.remove("now"));
    show({ at: Math.max(at, 0) }, "start");
    ready(state.at);
  }
  on("state", (now, from, turned) => {
    count.textContent = `${now.at + 1} / ${slides.length}`;
    if (turned) said.textContent = `${words.slide} ${slides[now.at].getAttribute("aria-label")}`;
  });

  return { root, known, words, slides, state, on, tell, made, added, button, show, stage, go, turn, find, fit, deeds, dialog, steps, start, listed,
    pane: (found) => { pane = found; fit(); } };
})();
