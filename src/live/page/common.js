// What every part of the page uses.

export const $ = (id) => document.getElementById(id);
export const make = (tag, words, kind) => {
  const e = document.createElement(tag);
  if (words !== undefined) e.textContent = words;
  if (kind) e.className = kind;
  return e;
};
export const button = (words, run) => {
  const b = make("button", words);
  b.type = "button";
  b.addEventListener("click", run);
  return b;
};

export let state = null;  // what the tool said last; null: nothing yet
export const set_state = (json) => { state = json; };
export const complain = (words) => {
  $("alert").hidden = !words;
  $("alert").textContent = words || "";
};
