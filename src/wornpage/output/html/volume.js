"use strict";
(() => {
  const root = document.documentElement, tools = document.querySelector(".tools");
  if (!tools) return;
  const words = JSON.parse(tools.dataset.words);
  const remembered = (name, value) => {
    try { return value === undefined ? localStorage.getItem(name) : localStorage.setItem(name, value); } catch { return null; }
  };

  // --- light or dark ---
  const look = tools.querySelector(".look"), system = matchMedia("(prefers-color-scheme: dark)");
  // rules for the dark hold, or not, as the reader has chosen, whatever the system says
  const rules = list => [...list].flatMap(rule => rule instanceof CSSMediaRule ? [rule, ...rules(rule.cssRules)] : []);
  const dark = [...document.styleSheets].flatMap(sheet => rules(sheet.cssRules)).filter(rule => /prefers-color-scheme:\s*dark/.test(rule.media.mediaText));
  const wear = name => {
    root.style.colorScheme = name;
    dark.forEach(rule => { rule.media.mediaText = name === "dark" ? "all" : "not all"; });
  };
  let worn = remembered("worn-look");
  if (worn === "dark" || worn === "light") wear(worn); else worn = null;
  look.hidden = false;
  look.addEventListener("click", () => {
    worn = (worn || (system.matches ? "dark" : "light")) === "dark" ? "light" : "dark";
    wear(worn);
    remembered("worn-look", worn);
  });

  // --- addresses of places, and reports with the words that are marked ---
  document.addEventListener("click", event => {
    const link = event.target.closest && event.target.closest(".beside a");
    if (!link) return;
    if (link.matches(".here") && navigator.clipboard) {
      navigator.clipboard.writeText(link.href).then(() => { link.textContent = words.copied; setTimeout(() => { link.textContent = "#"; }, 1500); }, () => {});
    }
    if (link.matches(".report")) {
      const marked = String(getSelection()).trim().slice(0, 400);
      if (!marked) return;
      const own = encodeURIComponent(marked), made = new URL(link.href, location.href).href;
      link.href = link.dataset.link.includes("{words}") ? made.replace(/(words=)[^&#]*/, "$1" + own) : made.replace(/(body=[^&#]*)/, "$1" + encodeURIComponent("> ") + own);
    }
  });

  // --- searching: the index is loaded when somebody searches ---
  const find = tools.querySelector(".find");
  let index = null, box = null, waiting = null;
  const bare = text => text.normalize("NFKD").replace(/\p{M}+/gu, "").toLowerCase().replaceAll("ß", "ss");
  const eastern = /[\u1100-\u11ff\u2e80-\u2fdf\u3005\u3007\u3041-\u309f\u30a0-\u30ff\u3131-\u318f\u31f0-\u31ff\u3400-\u4dbf\u4e00-\u9fff\ua960-\ua97f\uac00-\ud7ff\uf900-\ufaff\u{20000}-\u{323af}]/u;
  const parts = text => (bare(text).match(/[\u1100-\u11ff\u2e80-\u2fdf\u3005\u3007\u3041-\u309f\u30a0-\u30ff\u3131-\u318f\u31f0-\u31ff\u3400-\u4dbf\u4e00-\u9fff\ua960-\ua97f\uac00-\ud7ff\uf900-\ufaff\u{20000}-\u{323af}]+|(?:(?![\u1100-\u11ff\u2e80-\u2fdf\u3005\u3007\u3041-\u309f\u30a0-\u30ff\u3131-\u318f\u31f0-\u31ff\u3400-\u4dbf\u4e00-\u9fff\ua960-\ua97f\uac00-\ud7ff\uf900-\ufaff\u{20000}-\u{323af}])[\p{L}\p{N}_])+/gu) || []);
  const terms = text => parts(text).flatMap(part => !eastern.test(part) ? [part] : part.length === 1 ? [part] : [...part].slice(1).map((letter, at) => [...part][at] + letter));

  window.wornIndex = found => {
    const lists = found.lists, read = new Map();
    index = { ...found, terms: found.terms.split(" "), of: at => {
      if (!read.has(at)) {
        let doc = 0;
        read.set(at, lists[at].split(" ").map(pair => { const dot = pair.indexOf("."); doc += parseInt(pair, 36); return [doc, dot < 0 ? 1 : parseInt(pair.slice(dot + 1), 36)]; }));
      }
      return read.get(at);
    } };
    if (waiting) waiting();
  };
  const load = then => {
    if (index) return then();
    waiting = then;
    if (document.querySelector("script[data-search]")) return;
    const script = document.createElement("script");
    script.src = find.dataset.index;
    script.dataset.search = "";
    document.head.append(script);
  };

  // how many letters must change; more than `most` is too many
  const apart = (one, other, most) => {
    if (Math.abs(one.length - other.length) > most) return most + 1;
    let row = Array.from({ length: other.length + 1 }, (_, at) => at), before = null;
    for (let i = 1; i <= one.length; i++) {
      const next = [i];
      let least = i;
      for (let j = 1; j <= other.length; j++) {
        let cost = Math.min(row[j] + 1, next[j - 1] + 1, row[j - 1] + (one[i - 1] !== other[j - 1]));
        if (before && i > 1 && j > 1 && one[i - 1] === other[j - 2] && one[i - 2] === other[j - 1]) cost = Math.min(cost, before[j - 2] + 1);
        next.push(cost);
        if (cost < least) least = cost;
      }
      if (least > most) return most + 1;
      before = row; row = next;
    }
    return row[other.length];
  };
  const firstFrom = word => {
    let low = 0, high = index.terms.length;
    while (low < high) { const middle = (low + high) >> 1; if (index.terms[middle] < word) low = middle + 1; else high = middle; }
    return low;
  };
  // terms that a word may mean, with how near each is
  const meant = (word, isLast) => {
    const found = [], first = firstFrom(word);
    for (let at = first; at < index.terms.length && index.terms[at].startsWith(word) && found.length < 60; at++) {
      const exact = index.terms[at] === word;
      if (exact || isLast || word.length > 3) found.push([at, exact ? 1 : .6 * word.length / index.terms[at].length]);
    }
    if (!found.length && word.length > 3) {
      const most = word.length > 7 ? 2 : 1;
      for (let at = 0; at < index.terms.length; at++) {
        const term = index.terms[at];
        if (Math.abs(term.length - word.length) > most) continue;
        const distance = apart(word, term, most);
        if (distance <= most) found.push([at, .4 / distance]);
      }
    }
    return found;
  };
  // what is found, the best first; the terms that were meant go into `said`
  const search = (text, said) => {
    const wanted = terms(text);
    if (!wanted.length) return [];
    const count = index.docs.length;
    let scores = null;
    wanted.forEach((word, place) => {
      const own = new Float32Array(count);
      for (const [term, near] of meant(word, place === wanted.length - 1)) {
        const list = index.of(term), worth = near * Math.log(1 + count / list.length);
        said.add(index.terms[term]);
        for (const [doc, weight] of list) { const score = worth * Math.log2(1 + weight); if (score > own[doc]) own[doc] = score; }
      }
      if (scores) for (let doc = 0; doc < count; doc++) own[doc] = own[doc] && scores[doc] ? own[doc] + scores[doc] : 0;
      scores = own;
    });
    const found = [];
    for (let doc = 0; doc < count; doc++) if (scores[doc]) found.push(doc);
    return found.sort((a, b) => scores[b] - scores[a] || a - b).slice(0, 30).map(doc => index.docs[doc]);
  };

  const escaped = text => text.replace(/[&<>"]/g, sign => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" }[sign]));
  // the sentence in which the words stand, with these marked
  const around = (text, said) => {
    const pieces = [...text.matchAll(/[\p{L}\p{N}_]+/gu)], parted = [...said].filter(word => eastern.test(word));
    const hits = pieces.filter(piece => { const own = bare(piece[0]); return said.has(own) || parted.some(word => own.includes(word)); });
    const at = hits.length ? hits[0].index : 0;
    const begin = Math.max(text.lastIndexOf(". ", at) + 1, at - 90, 0), end = Math.min(begin + 220, text.length);
    let out = begin > 0 ? "… " : "", last = begin;
    for (const hit of hits) {
      if (hit.index < last || hit.index + hit[0].length > end) continue;
      out += escaped(text.slice(last, hit.index)) + "<mark>" + escaped(hit[0]) + "</mark>";
      last = hit.index + hit[0].length;
    }
    return out + escaped(text.slice(last, end)) + (end < text.length ? " …" : "");
  };

  const close = () => { if (box) { box.remove(); box = null; find.focus(); } };
  const open = () => {
    if (box) return;
    box = document.createElement("div");
    box.className = "searching";
    box.setAttribute("role", "dialog");
    box.setAttribute("aria-modal", "true");
    box.setAttribute("aria-label", words.find);
    box.innerHTML = `<div><form role="search"><input type="search" autocomplete="off" aria-label="${escaped(words.find)}" placeholder="${escaped(words.find)}"><button type="button">${escaped(words.close)}</button></form><ol aria-live="polite"></ol></div>`;
    document.body.append(box);
    const input = box.querySelector("input"), list = box.querySelector("ol");
    let picked = -1;
    const pick = to => {
      const links = list.querySelectorAll("a");
      if (!links.length) return;
      picked = (to + links.length) % links.length;
      links.forEach((link, at) => link.classList.toggle("picked", at === picked));
      links[picked].scrollIntoView({ block: "nearest" });
    };
    const show = () => {
      if (!box || !index) return;
      const said = new Set(), found = search(input.value, said);
      picked = -1;
      list.innerHTML = found.map(doc => {
        const page = index.pages[doc[0]];
        const place = doc[1] ? "#" + encodeURIComponent(doc[1]) : "";
        return `<li><a href="${escaped(find.dataset.root + page[0] + place)}"><b>${escaped(doc[2] || page[1])}</b>${doc[2] ? ` <small>${escaped(page[1])}</small>` : ""}<p>${around(doc[3], said)}</p></a></li>`;
      }).join("") || (terms(input.value).length ? `<li class="none">${escaped(words.none)}</li>` : "");
      if (found.length) pick(0);
    };
    input.addEventListener("input", () => load(show));
    box.querySelector("button").addEventListener("click", close);
    box.addEventListener("click", event => { if (event.target === box || event.target.closest("li a")) setTimeout(close); });
    box.querySelector("form").addEventListener("submit", event => { event.preventDefault(); const link = list.querySelectorAll("a")[Math.max(picked, 0)]; if (link) link.click(); });
    box.addEventListener("keydown", event => {
      if (event.key === "Escape") close();
      else if (event.key === "ArrowDown") pick(picked + 1);
      else if (event.key === "ArrowUp") pick(picked - 1);
      else if (event.key === "Tab") {
        const inner = [...box.querySelectorAll("input, button, a")], edge = event.shiftKey ? inner[0] : inner[inner.length - 1];
        if (document.activeElement === edge) (event.shiftKey ? inner[inner.length - 1] : inner[0]).focus(); else return;
      } else return;
      event.preventDefault();
    });
    input.focus();
    load(show);
  };
  if (find) { find.hidden = false; find.addEventListener("click", open); }

  // --- keys ---
  document.addEventListener("keydown", event => {
    if (event.ctrlKey || event.metaKey || event.altKey || box || event.target.closest("input, textarea, select, [contenteditable]")) return;
    if (event.key === "/" && find) { event.preventDefault(); open(); }
    if (document.activeElement === document.body && (event.key === "ArrowLeft" || event.key === "ArrowRight")) {
      const way = document.querySelector(event.key === "ArrowLeft" ? ".ways .previous" : ".ways .next");
      if (way) way.click();
    }
  });
  const here = document.querySelector(".side [aria-current]");
  if (here) { const side = here.closest(".side"); side.scrollTop = here.getBoundingClientRect().top - side.getBoundingClientRect().top - side.clientHeight / 2; }
})();
