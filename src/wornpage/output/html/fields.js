"use strict";
// Reads and writes the fields of given values, as `fields.py` makes them: in a page that carries its controls, at the desk, and in a proof.
const wornFields = (form) => {
  const givens = () => [...form.querySelectorAll("[data-given]")];
  const control = (one) => one.querySelector("input, select, textarea");
  // as written; a number, a date or a choice that is left blank is none
  function values() {
    const found = {};
    for (const one of givens()) {
      const name = one.dataset.given, own = control(one);
      if (one.dataset.kind === "picks") found[name] = [...one.querySelectorAll("input:checked")].map((box) => box.value);
      else if (one.dataset.kind === "yes/no") found[name] = own.checked ? "yes" : "no";
      else if (own.value !== "" || own.matches("[type=text], textarea")) found[name] = own.value;
    }
    return found;
  }
  function set(given) {
    for (const one of givens()) {
      const value = given[one.dataset.given];
      if (value === undefined) continue;
      if (one.dataset.kind === "picks") one.querySelectorAll("input").forEach((box) => { box.checked = [].concat(value).includes(box.value); });
      else if (one.dataset.kind === "yes/no") control(one).checked = value === "yes";
      else control(one).value = [].concat(value).join(", ");
    }
    tell();
  }
  // beside a slider stands what it is at
  function tell() { for (const slider of form.querySelectorAll("[type=range]")) slider.parentNode.querySelector("output").textContent = slider.value; }
  form.addEventListener("input", tell);
  return { givens, control, values, set };
};
