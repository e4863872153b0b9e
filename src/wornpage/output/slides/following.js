// A talk: what the speaker shows goes to a server, and the audience's slides go along.
(() => {
  const { known, words, state, made, added, on, show } = worn;
  const me = Math.random().toString(36).slice(2);

  // --- the speaker ------------------------------------------------------------------------------
  let sending = Promise.resolve(), waiting = new Map();
  function send(message) {
    // Of what waits to be sent only the last of its kind matters.
    waiting.set(message.drawn ? `drawn ${message.drawn.name} ${Boolean(message.drawn.live)}` : "state", message);
    sending = sending.then(async () => {
      const all = [...waiting.values()];
      waiting = new Map();
      if (all.length) await fetch("say", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ by: me, all }) }).catch(() => {});
    });
  }
  if (known.talking) {
    on("state", (now, from) => { if (from === "here") send({ state: { ...now } }); });
    on("drawn", (drawn, from) => { if (from === "here") send({ drawn }); if (from === "file") send({ drawn }); });
    const follow = () => worn.dialog(words.follow, made("p", {}, made("a", { href: known.talking }, known.talking)),
      made("img", { src: "audience.svg", alt: known.talking, style: "width:min(60vh, 80vw);display:block;margin:auto" }), made("form", { method: "dialog" }, made("button", { autofocus: true }, words.close)));
    on("tools", (tool) => tool("follow", follow));
    worn.deeds.push(["follow", ["q"], follow]);
  }

  // --- everybody --------------------------------------------------------------------------------
  let last = null, joined = true, bar = null;
  function note(text, deed) {
    bar?.remove();
    bar = null;
    if (!text) return;
    bar = added(made("div", { class: "apart", role: "status" }, text));
    if (deed) bar.append(made("button", { type: "button", onclick: join }, words.join));
  }
  function go(now) {
    last = now;
    if (joined) { show(now, "talk"); note(""); }
  }
  function join() {
    joined = true;
    note("");
    if (last) show(last, "talk");
  }
  if (known.following) {
    on("state", (now, from, turned) => {
      if (from !== "here" || !last || !joined || (last.at === now.at && last.step === now.step)) return;
      joined = false;
      note(words.apart, true);
    });
    worn.deeds.push(["join", ["j"], join]);
  }
  const events = new EventSource("events");
  const heard = (name, call) => events.addEventListener(name, (event) => { const data = JSON.parse(event.data); if (data.by !== me) call(data); });
  heard("all", (data) => {
    worn.tell("take", { everything: data.drawn }, "talk");
    if (data.state) go(data.state);
    else if (known.following) note(words.waiting);
  });
  heard("state", (data) => { if (known.following) go(data.state); else show(data.state, "talk"); });
  heard("drawn", (data) => worn.tell("take", data.drawn, "talk"));
  heard("end", () => { events.close(); note(words.gone); });
})();
