"use strict";
(() => {
  const told = `<script>{const tell=()=>parent.postMessage({worn:{height:document.body.getBoundingClientRect().bottom+parseFloat(getComputedStyle(document.body).marginBottom)}},"*");new ResizeObserver(tell).observe(document.body);addEventListener("keydown",(e)=>{if(!(e.defaultPrevented||e.ctrlKey||e.metaKey||e.altKey||e.target.closest("input,select,textarea,button,a,[contenteditable]")))parent.postMessage({worn:{key:e.key}},"*")});addEventListener("load",()=>{tell();setTimeout(tell,400)})}</` + `script>`;
  const libraries = {};
  async function unpacked(text) {
    const bytes = Uint8Array.from(atob(text), (one) => one.charCodeAt(0));
    return new Response(new Blob([bytes]).stream().pipeThrough(new DecompressionStream("deflate-raw"))).text();
  }
  function library(name) {
    const place = document.getElementById("live-" + name);
    return libraries[name] || (libraries[name] = unpacked(place.textContent).then((text) => "<script>" + text.replace(/<\/script/gi, "<\\/script") + "</" + "script>"));
  }

  // --- a page of its own ---
  async function live(place) {
    const page = JSON.parse(await unpacked(place.querySelector("script").textContent));
    const scripts = await Promise.all(page.scripts.map(library));
    const frame = document.createElement("iframe");
    frame.setAttribute("sandbox", "allow-scripts");
    frame.title = place.dataset.words || "…";
    frame.srcdoc = page.head + scripts.join("") + page.html + told + "</body></html>";
    frame.addEventListener("load", () => place.classList.add("lives"));
    place.append(frame);
    if ("scaled" in place.dataset) scaled(place, frame);
  }
  function scaled(place, frame) {
    // as large as its still picture would be there: drawn in its own size, and brought to that of its room
    const across = place.querySelector("svg, img") ? parseFloat(place.style.width) * 96 / 2.54 : 0;
    const ratio = place.style.aspectRatio.split("/").map(Number);
    const size = { width: across || 700, height: across && ratio[1] ? across * ratio[1] / ratio[0] : 450 };
    const fit = () => {
      const k = Math.min(place.clientWidth / size.width, place.clientHeight / size.height) || 1;
      Object.assign(frame.style, { width: size.width + "px", height: size.height + "px", transform: `scale(${k})`,
        left: (place.clientWidth - k * size.width) / 2 + "px", top: (place.clientHeight - k * size.height) / 2 + "px" });
    };
    place.resize = (height) => { if (!("fits" in place.dataset)) { size.height = height; fit(); } };
    new ResizeObserver(fit).observe(place);
    fit();
  }
  addEventListener("message", (event) => {
    const height = event.data && event.data.worn && Number(event.data.worn.height);
    if (!(height > 0)) return;
    for (const frame of document.querySelectorAll(".live iframe, iframe.framed")) {
      if (frame.contentWindow !== event.source || "fits" in frame.parentNode.dataset || (frame.closest(".slide") && !frame.parentNode.resize)) continue;
      const high = Math.min(Math.ceil(height), 6000);
      if (frame.parentNode.resize) frame.parentNode.resize(high);
      else if (frame.classList.contains("framed")) frame.style.height = high + "px";
      else { frame.parentNode.style.aspectRatio = "auto"; frame.parentNode.style.minHeight = "0"; frame.parentNode.style.height = high + "px"; }
    }
  });

  // frames of the page may have told it before anybody listened
  for (const frame of document.querySelectorAll("iframe.framed")) {
    const ask = () => frame.contentWindow.postMessage("height", "*");
    ask();
    frame.addEventListener("load", ask);
  }

  // --- pictures that follow one another ---
  function move(place) {
    const frames = JSON.parse(place.querySelector("script").textContent), still = place.querySelector("svg, img");
    const picture = document.createElement("img"), tools = document.createElement("div"), play = document.createElement("button"), where = document.createElement("input");
    picture.alt = place.dataset.words;
    if (still) { const box = still.getBoundingClientRect(); picture.style.width = still.style.width || box.width + "px"; }
    play.type = "button";
    where.type = "range"; where.min = 0; where.max = frames.length - 1; where.value = 0;
    where.setAttribute("aria-label", place.dataset.words);
    tools.className = "moving-tools";
    tools.append(play, where);
    let at = 0, timer = 0;
    const show = (next) => { at = (next + frames.length) % frames.length; picture.src = "data:image/png;base64," + frames[at]; where.value = at; };
    const run = (on) => {
      clearInterval(timer);
      timer = on ? setInterval(() => show(at + 1), 1000 * Number(place.dataset.seconds)) : 0;
      play.textContent = on ? "❚❚" : "▶";
      play.setAttribute("aria-pressed", String(on));
    };
    play.setAttribute("aria-label", "▶");
    play.addEventListener("click", () => run(!timer));
    where.addEventListener("input", () => { run(false); show(Number(where.value)); });
    show(0);
    if (still) still.classList.add("still");
    place.prepend(picture);
    place.append(tools);
    place.classList.add("moves");
    run(!matchMedia("(prefers-reduced-motion: reduce)").matches);
  }

  // --- each when it is about to be seen ---
  if (!("DecompressionStream" in window)) return;
  const near = new IntersectionObserver((seen) => {
    for (const one of seen) if (one.isIntersecting) { near.unobserve(one.target); one.target.classList.contains("live") ? live(one.target) : move(one.target); }
  }, { rootMargin: "600px" });
  const look = () => document.querySelectorAll(".live:not([data-known]), .moving:not([data-known])").forEach((one) => { one.dataset.known = ""; near.observe(one); });
  new MutationObserver(look).observe(document.body, { childList: true, subtree: true });
  look();
})();
