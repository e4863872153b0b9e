// The speaker's view in a window of its own: this slide, the next step, notes, clock and time left, kept in step with the other window.
(() => {
  const { root, known, words, slides, state, made, added, on, show } = worn;
  const isSpeaker = new URLSearchParams(location.search).has("speaker");
  let other = isSpeaker ? opener : null;

  // --- two windows in step ----------------------------------------------------------------------
  const say = (message) => { if (other && !other.closed) other.postMessage({ worn: known.title, ...message }, location.protocol === "file:" ? "*" : location.origin); };
  addEventListener("message", (event) => {
    const data = event.data;
    const own = location.protocol === "file:" || event.origin === location.origin;
    if (!data || data.worn !== known.title || !own || (event.source !== other && event.source !== opener && other && !other.closed)) return;
    other = event.source;
    if (data.state) show(data.state, "window");
    if (data.drawn) worn.tell("take", data.drawn, "window");
    if (data.hello) { say({ state: { ...state } }); worn.tell("all-drawn", (drawn) => say({ drawn })); }
  });
  on("state", (now, from) => { if (from !== "window" && from !== "start") say({ state: { ...now } }); });
  on("drawn", (drawn, from) => { if (from !== "window") say({ drawn }); });

  function open() {
    const address = new URL(location.href);
    address.searchParams.set("speaker", "");
    address.hash = slides[state.at].dataset.address;
    other = window.open(address.href, "worn-speaker", "popup,width=1200,height=760");
  }

  // --- what the speaker sees --------------------------------------------------------------------
  function speak() {
    root.classList.add("speaking");
    const clock = made("span", {}), spent = made("span", {}), left = made("span", {}), count = made("span", {});
    let begun = null;
    const clocks = made("div", { class: "clocks" }, count, made("span", {}, made("b", {}, words.clock), clock), made("span", {}, made("b", {}, words.elapsed), spent), left,
      made("button", { type: "button", onclick: () => { begun = null; tick(); } }, words.restart));
    const ahead = made("div", { class: "pane ahead", inert: true, "aria-hidden": "true" });
    const notes = made("section", { class: "words", "aria-label": words.notes, tabindex: "0" });
    [clocks, ahead, notes].forEach(added);
    worn.deeds.push(["notes", ["+"], () => notes.classList.toggle("large")]);

    const written = (seconds) => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;
    function tick() {
      const now = new Date();
      clock.textContent = now.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
      const passed = begun === null ? 0 : (now - begun) / 1000;
      spent.textContent = written(passed);
      const rest = known.minutes * 60 - passed;
      left.replaceChildren(...(known.minutes ? [made("b", {}, rest < 0 ? words.over : words.left), written(Math.abs(rest))] : []));
      left.classList.toggle("over", rest < 0);
    }
    setInterval(tick, 500);

    function place() {
      const top = 52, wide = Math.round(innerWidth * 0.62), rest = innerWidth - wide - 36;
      const k = Math.min(rest / known.width, (innerHeight * 0.42) / known.height);
      root.style.setProperty("--ka", k);
      const height = Math.min(wide * known.height / known.width, innerHeight * 0.8 - top);
      worn.pane(() => ({ left: 12, top, width: wide, height }));
      Object.assign(ahead.style, { left: wide + 24 + "px", top: top + "px", width: k * known.width + "px", height: k * known.height + 22 + "px" });
      const below = top + k * known.height + 34;
      Object.assign(notes.style, { left: wide + 24 + "px", top: below + "px", width: rest + "px", height: innerHeight - below - 12 + "px" });
    }
    addEventListener("resize", place);
    place();

    function preview() {
      const here = slides[state.at];
      const more = state.step < worn.steps(here);
      const next = more ? here : slides[state.at + 1];
      ahead.replaceChildren(made("h2", { class: "name" }, words.after));
      if (!next) return ahead.append(made("p", { class: "done" }, words.end));
      const copy = next.cloneNode(true);
      copy.removeAttribute("id");
      copy.classList.remove("now", "near");
      copy.querySelectorAll(".live iframe, .moves > :not(.still, script)").forEach((one) => one.remove());
      copy.querySelectorAll(".live, .moving").forEach((one) => { one.dataset.known = ""; one.classList.remove("lives", "moves"); }); // seen as they will be, they need not live yet
      copy.querySelectorAll(".speaker").forEach((one) => one.remove());
      worn.stage(copy, more ? state.step + 1 : 0);
      copy.querySelectorAll("h1[id], h2[id], figure[id], .step[id], span[id], li[id]").forEach((one) => one.removeAttribute("id"));
      ahead.append(copy);
    }
    on("state", (now, from, turned) => {
      if (begun === null && from !== "start" && (now.at > 0 || now.step > 0)) { begun = new Date(); tick(); }
      count.textContent = `${now.at + 1} / ${slides.length}`;
      const own = slides[now.at].querySelector(".speaker");
      if (turned || from === "start") notes.replaceChildren(made("h2", { class: "name" }, words.notes), ...(own ? [...own.cloneNode(true).childNodes] : []));
      preview();
    });
    tick();
    if (other) say({ hello: true });
  }

  on("tools", (tool) => { if (!isSpeaker && !worn.known.following) tool("speaker", open); });
  if (!isSpeaker && !known.following) worn.deeds.push(["speaker", ["s"], open]);
  on("start", () => { if (isSpeaker) speak(); });
})();
