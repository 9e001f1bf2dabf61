// Values and what turns them.
import { $, button, complain, make, state } from "./common.js";
import { post } from "./ask.js";
import { key_words } from "./curve.js";
import { draft_words, look, refresh } from "./picture.js";

// Marks of lenses in thirds of a stop (ISO 517 names them so).
const thirds = [0.7, 0.8, 0.9, 1, 1.1, 1.2, 1.4, 1.6, 1.8, 2, 2.2, 2.5, 2.8, 3.2, 3.5, 4, 4.5, 5, 5.6, 6.3,
                7.1, 8, 9, 10, 11, 13, 14, 16, 18, 20, 22, 25, 29, 32];
let free_stop = false;
const fine = 1000;
const shortly = (v, digits) => String(+v.toPrecision(digits));
const marks_of = (c) => thirds.filter((n) => n >= c.min * 0.99 && n <= c.max * 1.01);
const laws = {
  linear: { to: (c, t) => c.min + (c.max - c.min) * t, from: (c, v) => (v - c.min) / (c.max - c.min) },
  factor: { to: (c, t) => c.min * Math.pow(c.max / c.min, t),
            from: (c, v) => Math.log(v / c.min) / Math.log(c.max / c.min) },
  dioptres: { to: (c, t) => c.min + (c.max - c.min) * t, from: (c, v) => (v - c.min) / (c.max - c.min) },
  mired: { to: (c, t) => 1 / (1 / c.min + (1 / c.max - 1 / c.min) * t),
           from: (c, v) => (1 / v - 1 / c.min) / (1 / c.max - 1 / c.min) }
};
laws.stop = laws.factor;
laws.curvature = laws.linear;
const text_of = (c, v) => {
  if (c.law === "dioptres") return v < 1e-9 ? "infinity" : shortly(1 / v, c.digits) + c.suffix;
  if (c.law === "curvature") {
    if (Math.abs(v) < 0.02) return "straight";
    return v > 0.995 ? "round" : shortly(1 / v, c.digits) + c.suffix;
  }
  if (c.law === "whole") return String(Math.round(v));
  return c.prefix + shortly(v, c.digits) + c.suffix;
};
const shown_text = (c) => (c.value === null ? "" : text_of(c, c.value));
const position = (c) => {
  if (c.value === null) return 0;
  if (c.law === "whole") return c.value;
  if (c.law === "stop" && !free_stop) {
    let best = 0;
    const marks = marks_of(c);
    marks.forEach((n, i) => {
      if (Math.abs(Math.log(n / c.value)) < Math.abs(Math.log(marks[best] / c.value))) best = i;
    });
    return best;
  }
  return Math.round(fine * laws[c.law].from(c, c.value));
};
const value_at = (c, p) => {
  if (c.law === "whole") return p;
  if (c.law === "stop" && !free_stop) return marks_of(c)[p];
  return laws[c.law].to(c, p / fine);
};

// The last value of each key is sent, one question at a time.
let pending = new Map();
let under_way = new Map();  // sent, not answered
let pending_touch = "";
let posting = false;
let touch = "";
let touches = 0;
// One drag, taken back as one.
export const new_touch = (of) => { touches += 1; return of + touches; };
const send = async () => {
  if (posting || pending.size === 0) return;
  posting = true;
  const set = [...pending].map(([key, text]) => key + "=" + text);
  under_way = pending;
  pending = new Map();
  const touch = pending_touch;
  try {
    const key = set.some((words) => words.startsWith("focus.")) ? key_words() : {};
    await post("change", { set, touch, ...key, ...draft_words(), ...($("keep-framing")?.checked ? { keep: "1" } : {}) });
  } catch (e) {
    complain("the tool does not answer: " + e.message);
  }
  posting = false;
  const sent = under_way;
  under_way = new Map();
  // What came meanwhile left these rows to the hand.
  for (const c of state.controls) {
    if (sent.has(c.key) && !pending.has(c.key)) fill_row(c);
  }
  send();
};
const turn = (key, text) => {
  pending.set(key, text);
  pending_touch = touch;  // the hand may be gone when it is sent
  send();
};

const rows = new Map();
const build = (c) => {
  const row = make("div", undefined, "row");
  const label = make("label", c.label);
  const range = make("input");
  const text = make("input");
  const id = "c-" + c.key.replaceAll(".", "-");
  range.type = "range";
  range.id = id;
  label.htmlFor = id;
  text.type = "text";
  text.id = id + "-text";
  text.setAttribute("aria-label", c.label + ", as text");
  const back = button("↺", () => post("change", { clear: c.key === "focus.at" ? focus_keys() : c.key }));
  back.title = "as in the file";
  back.setAttribute("aria-label", c.label + " as in the file");
  row.append(label, range, text, back);
  const entry = { c, row, range, text };
  const begin = () => { touch = new_touch(c.key); look.dragging = true; };
  const finish = () => { look.dragging = false; refresh(); };  // the slider may still move to its last place
  const apart = () => { touch = ""; };
  range.addEventListener("pointerdown", begin);
  range.addEventListener("pointerup", finish);
  range.addEventListener("pointercancel", finish);
  range.addEventListener("keydown", apart);
  range.addEventListener("input", () => {
    const words = text_of(entry.c, value_at(entry.c, +range.value));
    text.value = words;
    range.setAttribute("aria-valuetext", words);
    turn(entry.c.key, words);
  });
  const typed = () => {
    apart();
    if (text.value.trim() && text.value !== shown_text(entry.c)) turn(entry.c.key, text.value.trim());
  };
  text.addEventListener("change", typed);
  row.addEventListener("wheel", (event) => {
    event.preventDefault();
    apart();
    const way = event.deltaY < 0 ? 1 : -1;
    const step = range.max - range.min > 100 ? 10 : 1;
    range.value = +range.value + way * step;
    range.dispatchEvent(new Event("input"));
  }, { passive: false });
  rows.set(c.key, entry);
  return row;
};
const focus_keys = () => state.values.map((v) => v.key).filter((k) => k.startsWith("focus.") && k !== "focus.offset");
export const fill_row = (c) => {
  const e = rows.get(c.key);
  e.c = c;
  e.row.classList.toggle("changed", c.changed);
  e.row.classList.toggle("guessed", c.guessed);
  e.row.title = c.of_nothing ? "turn up what it belongs to first"
    : c.noted === null ? "" : "in the file: " + text_of(c, c.noted);
  e.range.disabled = e.text.disabled = c.of_nothing;
  const moving = pending.has(c.key) || under_way.has(c.key);
  e.range.min = c.law === "whole" ? c.min : 0;
  e.range.max = c.law === "whole" ? c.max : c.law === "stop" && !free_stop ? marks_of(c).length - 1 : fine;
  if (!moving && !(look.dragging && document.activeElement === e.range)) e.range.value = position(c);
  e.range.setAttribute("aria-valuetext", shown_text(c));
  if (!moving && document.activeElement !== e.text) e.text.value = shown_text(c);
};
// Looks are laid over each other in the order in which they are chosen; the last one leads.
const look_name = (file) => file.replace(/^.*\//, "").replace(".look.toml", "");
const chosen_looks = () => (state.look ? state.look.split(" + ") : []);
const build_looks = () => {
  const box = make("div", undefined, "looks");
  box.id = "looks";
  for (const file of state.looks) {
    const label = make("label", undefined, "check");
    const input = make("input");
    input.type = "checkbox";
    input.value = file;
    input.addEventListener("change", () => {
      const all = chosen_looks().filter((one) => one !== file);
      if (input.checked) all.push(file);
      post("change", all.length > 0 ? { set: "lens.look=" + all.join(" + ") } : { clear: "lens.look" });
    });
    label.append(input, make("span", look_name(file)));
    box.append(label);
  }
  return [make("h2", "looks, the last one leads"), box];
};
export const fill_looks = () => {
  const chosen = chosen_looks();
  for (const input of document.querySelectorAll("#looks input")) {
    const at = chosen.indexOf(input.value);
    input.checked = at >= 0;
    input.nextSibling.textContent = look_name(input.value) + (at >= 0 && chosen.length > 1 ? ` ${at + 1}` : "");
  }
};
export const build_controls = () => {
  const form = $("controls");
  form.textContent = "";
  let section = "";
  for (const c of state.controls) {
    if (c.section !== section) {
      section = c.section;
      form.append(make("h2", section));
    }
    form.append(build(c));
    if (c.key === "scene.back") {
      const label = make("label", undefined, "check");
      const input = make("input");
      input.type = "checkbox";
      input.id = "keep-framing";
      label.append(input, make("span", "what is in focus stays as large, by the lens"));
      form.append(label);
    }
    if (c.law === "stop") {
      const label = make("label", undefined, "check");
      const input = make("input");
      input.type = "checkbox";
      input.id = "free-stop";
      input.addEventListener("change", () => {
        free_stop = input.checked;
        fill_row(state.controls.find((x) => x.law === "stop"));
      });
      label.append(input, make("span", "between the marks"));
      form.append(label);
    }
  }
  if (state.looks.length > 0) form.append(...build_looks());
  form.append(make("h2", "any other key"));
  const any = make("div", undefined, "any");
  const key = make("input");
  key.type = "text";
  key.id = "any-key";
  key.placeholder = "scene.back";
  key.setAttribute("aria-label", "key of the shot file");
  const value = make("input");
  value.type = "text";
  value.id = "any-value";
  value.placeholder = "20 cm";
  value.setAttribute("aria-label", "its value");
  any.append(key, value, button("Set", () => post("change", { set: key.value.trim() + "=" + value.value.trim() })));
  form.append(any);
  form.addEventListener("submit", (event) => event.preventDefault());
};
