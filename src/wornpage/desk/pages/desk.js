// The desk: what is picked becomes a wish, the report appears beside, and the address holds the values.
(() => {
  "use strict";
  const known = JSON.parse(document.getElementById("known").textContent);
  const find = (id) => document.getElementById(id);
  const form = find("picks"), frame = find("shown"), said = find("said"), bar = find("bar"), progress = find("progress"), wrong = find("wrong"), taking = find("taking");
  const watcher = Array.from(crypto.getRandomValues(new Uint8Array(9)), (one) => one.toString(36)).join("");
  const wait = 250; // milliseconds after the last change
  let now = null, timer = 0, listening = null, asked = 0;

  // --- values -----------------------------------------------------------------------------------
  const { givens, control, values, set } = wornFields(form);
  function address(given) {
    const pairs = new URLSearchParams();
    for (const [name, value] of Object.entries(given)) for (const one of value.length ? [].concat(value) : [""]) pairs.append(name, one);
    const text = pairs.toString();
    return text ? "?" + text : location.pathname;
  }
  function faults(found) {
    for (const one of givens()) {
      const fault = found[one.dataset.given], place = one.querySelector(".wrong");
      place.hidden = !fault;
      place.textContent = fault || "";
      for (const control of one.querySelectorAll("input, select, textarea")) fault ? control.setAttribute("aria-invalid", "true") : control.removeAttribute("aria-invalid");
    }
    const first = givens().find((one) => found[one.dataset.given]);
    if (first && document.activeElement === form.querySelector("button.main")) control(first).focus();
  }

  // --- asking -----------------------------------------------------------------------------------
  async function post(path, data) {
    try {
      const answer = await fetch(path, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(data) });
      const told = await answer.json().catch(() => ({}));
      if (answer.status === 401) { location.reload(); return { why: "" }; }
      return answer.ok ? told : { why: told.why || "the desk did not understand that.", faults: told.faults };
    } catch { return { why: "the desk cannot be reached. It may be back in a moment." }; }
  }
  async function wish(kind, by, told, whenDone) {
    const given = values(), mine = ++asked;
    const answer = await post("wish", { given, as: kind, by });
    if (kind === "html" && mine !== asked) return null;
    if (answer.why !== undefined) {
      if (answer.faults) { if (kind === "html") { faults(answer.faults); hush(); } told({ state: "wrong", why: "Some values cannot be taken; see beside them." }); }
      else told({ state: "wrong", why: answer.why });
      return null;
    }
    const stream = new EventSource(`told?key=${encodeURIComponent(answer.key)}&by=${encodeURIComponent(by)}`);
    stream.addEventListener("standing", (event) => {
      const standing = JSON.parse(event.data);
      if (["done", "failed", "stopped", "unknown"].includes(standing.state)) stream.close();
      standing.state === "done" ? whenDone(standing, answer, given) : told(standing);
    });
    stream.onerror = () => { if (stream.readyState === 2) told({ state: "wrong", why: "the desk cannot be reached. It may be back in a moment." }); };
    return { stream, given };
  }
  function inWords(standing) {
    if (standing.state === "waiting") return standing.ahead ? `Waiting: ${standing.ahead} before you` : "Waiting for a place";
    if (standing.state === "running") return standing.parts ? `Working: part ${standing.part} of ${standing.parts}` + (standing.of ? `, ${standing.done} of ${standing.of}` : "") : "Working";
    return { failed: standing.why, stopped: "This was ended before it was done.", unknown: "This is no longer known. Ask again.", wrong: standing.why }[standing.state] || "";
  }
  function hush() { progress.hidden = true; frame.classList.remove("stale"); }
  function tell(standing) {
    const words = inWords(standing), isOn = standing.state === "waiting" || standing.state === "running";
    progress.hidden = !isOn;
    if (said.textContent !== words) said.textContent = words;
    bar.hidden = !standing.parts;
    if (standing.parts) { bar.max = standing.parts; bar.value = standing.part - 1 + (standing.of ? standing.done / standing.of : 0); }
    frame.classList.toggle("stale", isOn);
    find("hint").hidden = true;
    wrong.hidden = isOn || standing.state === "wrong" && !standing.why;
    if (!isOn) { wrong.textContent = words.charAt(0).toUpperCase() + words.slice(1); frame.hidden = true; taken(true); }
  }
  async function show() {
    clearTimeout(timer);
    if (listening) { listening.close(); listening = null; }
    faults({});
    wrong.hidden = true;
    taken(true);
    const slow = setTimeout(() => { if (!frame.hidden) frame.classList.add("stale"); }, 400);
    const made = await wish("html", watcher, tell, (standing, answer) => {
      clearTimeout(slow);
      hush();
      wrong.hidden = find("hint").hidden = true;
      const place = `made/${answer.place}/html?${standing.mark}`;
      if (now !== place) { now = place; frame.src = place; }
      frame.hidden = false;
      if (standing.title) document.title = find("called").textContent = standing.title;
      taken(false);
    });
    clearTimeout(slow);
    if (!made) return;
    listening = made.stream;
    history.replaceState(null, "", address(made.given));
  }
  function later() { clearTimeout(timer); timer = setTimeout(show, wait); }

  // --- taking it along --------------------------------------------------------------------------
  const takes = [...form.querySelectorAll("[data-kind]")].filter((one) => one.tagName === "BUTTON");
  function taken(isOff) { for (const one of takes) one.disabled = isOff; taking.textContent = ""; }
  for (const button of takes) button.addEventListener("click", () => {
    const kind = button.dataset.kind;
    taking.textContent = `Making it …`;
    wish(kind, `${watcher}-${kind}`, (standing) => { taking.textContent = inWords(standing); }, (standing, answer) => {
      taking.textContent = "Here it is.";
      const link = document.createElement("a");
      link.href = `made/${answer.place}/${kind}?take=${standing.mark}`;
      link.download = "";
      link.click();
    });
  });

  // --- kept values ------------------------------------------------------------------------------
  const sets = find("sets");
  function listed(all) {
    if (!sets) return;
    sets.replaceChildren(...Object.entries(all).map(([name, given]) => {
      const line = document.createElement("li"), link = document.createElement("a"), drop = document.createElement("button");
      link.href = address(given); link.textContent = name;
      link.addEventListener("click", (event) => { if (event.metaKey || event.ctrlKey || event.shiftKey) return; event.preventDefault(); set(given); show(); });
      drop.type = "button"; drop.textContent = "×"; drop.setAttribute("aria-label", `Keep “${name}” no longer`);
      drop.addEventListener("click", () => { if (confirm(`Keep “${name}” no longer?`)) change({ drop: name }); });
      line.append(link, drop);
      return line;
    }));
  }
  async function change(what) {
    const answer = await post("kept", what), place = find("kept-said");
    if (answer.why !== undefined) { place.textContent = answer.faults ? "Some values cannot be taken." : answer.why; if (answer.faults) faults(answer.faults); return; }
    place.textContent = what.drop ? "" : "Kept.";
    listed(answer.sets);
  }
  if (sets) {
    listed(known.sets);
    const name = find("keep-name");
    const keep = () => { if (name.value.trim()) change({ name: name.value, given: values() }); else name.focus(); };
    find("keep").addEventListener("click", keep);
    name.addEventListener("keydown", (event) => { if (event.key === "Enter") { event.preventDefault(); keep(); } });
  }

  // --- beginning --------------------------------------------------------------------------------
  form.addEventListener("input", (event) => { if (event.target.id === "keep-name") return; if (!event.target.matches("[type=text], [type=number], [type=date], textarea")) later(); });
  form.addEventListener("change", (event) => { if (event.target.id !== "keep-name") later(); });
  form.addEventListener("submit", (event) => { event.preventDefault(); show(); });
  addEventListener("pagehide", () => { if (listening) listening.close(); });
  addEventListener("popstate", () => location.reload());
  if (matchMedia("(max-width: 800px)").matches && known.begins) find("fold").open = false;
  faults(known.faults);
  if (known.begins) show();
})();
