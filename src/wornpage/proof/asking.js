// Where a value, a figure or a table comes from, asked of the server; places lead to the editor.
"use strict";
(() => {
  const { ask, tell, placeOf, nodesOf } = wornProof;
  const { words } = JSON.parse(document.getElementById("worn-known").textContent);
  if (!words || !document.querySelector("main")) return;

  async function answer(here) {
    const part = placeOf(here);
    if (part < 0) return null;
    const inside = nodesOf(part).filter((node) => node.nodeType === 1).flatMap((node) => [...(node.matches("[data-from]") ? [node] : []), ...node.querySelectorAll("[data-from]")]);
    const told = await ask(`origin?part=${part}&at=${inside.indexOf(here)}`);
    if (told.why) { tell(told.why); return null; }
    return told;
  }

  function place(where) {
    const made = document.createElement("button");
    made.type = "button";
    made.className = "worn-place";
    made.textContent = where;
    made.onclick = async () => {
      const told = await ask("edit", { place: where });
      if (told.why) return tell(told.why);
      if (told.opened) return tell(`${where} opened`);
      const copied = navigator.clipboard ? navigator.clipboard.writeText(where) : Promise.reject();
      copied.then(() => tell(`${where} copied`), () => tell(where));
    };
    return made;
  }

  wornOrigins(words, answer, place);
})();
