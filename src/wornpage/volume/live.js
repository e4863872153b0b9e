"use strict";
(() => {
  const root = new URL("./", document.currentScript.src).href.replace(/-\/$/, "");
  const bar = document.createElement("div");
  bar.setAttribute("role", "status");
  bar.style.cssText = "position:fixed;left:12px;bottom:12px;max-width:min(60rem,90vw);max-height:40vh;overflow:auto;padding:6px 12px;z-index:90;font:13px/1.5 system-ui,sans-serif;white-space:pre-wrap;background:var(--paper,#fffdf7);color:var(--ink,#222);border:1px solid var(--rule,#888);border-radius:6px";
  bar.hidden = true;
  document.body.append(bar);
  let problems = [], busy = false, at = "";
  const show = () => {
    bar.hidden = !busy && !problems.length;
    bar.style.borderLeft = problems.length ? "4px solid var(--alarm,#a33)" : "";
    bar.textContent = [busy ? at || "…" : "", ...problems].filter(Boolean).join("\n");
  };

  // the children of one element become those of another: what is alike stays where it is
  const become = (old, now) => {
    const kept = new Map();
    for (const child of [...old.childNodes]) {
      const key = child.outerHTML ?? child.data;
      kept.set(key, [...(kept.get(key) || []), child]);
    }
    let here = old.firstChild;
    for (const child of [...now.childNodes]) {
      const same = (kept.get(child.outerHTML ?? child.data) || []).shift();
      if (same) {
        if (same === here) here = here.nextSibling; else old.insertBefore(same, here);
      } else {
        const made = document.importNode(child, true);
        old.insertBefore(made, here);
        if (made.animate && !matchMedia("(prefers-reduced-motion: reduce)").matches) made.animate([{ backgroundColor: "rgba(196,154,69,.35)" }, {}], 1600);
      }
    }
    for (const rest of [...kept.values()].flat()) rest.remove();
  };
  const renew = async () => {
    const answer = await fetch(location.pathname, { cache: "no-store" });
    if (!answer.ok) return;
    const now = new DOMParser().parseFromString(await answer.text(), "text/html");
    const styles = page => [...page.querySelectorAll("head > style")].map(one => one.textContent).join("");
    if (styles(now) !== styles(document)) return location.reload();
    document.title = now.title;
    for (const name of ["main", "nav.side", ".tools"]) {
      const old = document.querySelector(name), made = now.querySelector(name);
      if (old && made && name !== ".tools") become(old, made);
      else if (old && made) old.querySelector(".home").textContent = made.querySelector(".home").textContent;
      else if (Boolean(old) !== Boolean(made)) return location.reload();
    }
  };

  const own = decodeURIComponent(location.href.slice(root.length).replace(/[?#].*/, "")) || "index.html";
  const events = new EventSource(root + "-/events");
  events.addEventListener("changed", event => { if (JSON.parse(event.data).pages.includes(own)) renew(); });
  events.addEventListener("at", event => { const now = JSON.parse(event.data); at = now.page + (now.chunk ? ": " + now.chunk : ""); show(); });
  events.addEventListener("state", event => { ({ problems, busy } = JSON.parse(event.data)); if (!busy) at = ""; show(); });
})();
