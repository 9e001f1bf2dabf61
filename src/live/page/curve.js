// The focus over frames: a curve to drag in, its keys, and what makes new ones.
import { $, complain, make, state } from "./common.js";
import { post } from "./ask.js";
import { look, refresh } from "./picture.js";
import { new_touch } from "./values.js";

// Where what focuses is to become a key of the frame that is shown.
export const key_words = () => (state.frames && $("focus-key").checked ? { key: "1" } : {});

const height = 150;
const edge = { left: 46, right: 14, top: 20, bottom: 20 };
const marks = [0.3, 0.5, 0.7, 1, 1.5, 2, 3, 5, 10, 20, 50];  // m, as barrels have them
let curve = null;  // what is drawn
let shown = 0;
let busy = false;
let grip = null;
let focused = null;  // the frame of the key that has the keyboard; drawing makes it anew

const svg = (tag, words, text) => {
  const e = document.createElementNS("http://www.w3.org/2000/svg", tag);
  for (const [name, value] of Object.entries(words)) e.setAttribute(name, value);
  if (text !== undefined) e.textContent = text;
  return e;
};
const dioptres = (m) => (m === null ? 0 : 1 / m);
// Frames go along, the focus goes up and down evenly in dioptres: as blur does.
const scale_of = (c) => {
  const width = Math.max(200, $("curve").clientWidth);
  const all = [...c.points, ...c.keys].map((p) => dioptres(p.m));
  const most = Math.max(...all);
  const least = Math.min(...all);
  const room = Math.max(0.15 * (most - least), 0.08 * most, 0.02);
  const high = most + room;
  const low = Math.max(0, least - room);
  const span = Math.max(1, c.last - c.first);
  const wide = width - edge.left - edge.right;
  const tall = height - edge.top - edge.bottom;
  return {
    width, low, high,
    x: (frame) => edge.left + ((frame - c.first) / span) * wide,
    y: (d) => edge.top + ((high - d) / (high - low)) * tall,
    frame: (x) => Math.min(c.last, Math.max(c.first, Math.round(c.first + ((x - edge.left) / wide) * span)))
  };
};
const distance_text = (d) => (d < 1e-3 ? "infinity" : (1 / d).toPrecision(4) + " m");

const draw = () => {
  const c = curve;
  const to = scale_of(c);
  const into = $("curve");
  into.textContent = "";
  into.setAttribute("viewBox", `0 0 ${to.width} ${height}`);
  let last_y = Infinity;
  for (const m of [...marks, null]) {
    const y = to.y(dioptres(m));
    if (y < edge.top || y > height - edge.bottom + 0.5 || Math.abs(last_y - y) < 15) continue;
    last_y = y;
    into.append(svg("line", { class: "grid", x1: edge.left, x2: to.width - edge.right, y1: y, y2: y }),
                svg("text", { x: edge.left - 6, y: y + 4, "text-anchor": "end" }, m === null ? "∞" : m + " m"));
  }
  into.append(svg("text", { x: edge.left, y: height - 4 }, "frame " + c.first),
              svg("text", { x: to.width - edge.right, y: height - 4, "text-anchor": "end" }, c.last));
  const now = to.x(state.frames.now);
  into.append(svg("line", { class: "here", x1: now, x2: now, y1: edge.top - 8, y2: height - edge.bottom }),
              svg("polyline", { class: "way", points: c.points.map((p) => `${to.x(p.frame)},${to.y(dioptres(p.m))}`).join(" ") }));
  let said = "";
  let said_to = -Infinity;
  for (const k of c.keys) {
    const x = to.x(k.frame);
    const y = to.y(dioptres(k.m));
    const words = k.on === said ? "" : k.on;
    said = k.on;
    const key = svg("g", {
      class: "key" + (k.frame === state.frames.now ? " now" : ""), tabindex: "0", role: "slider", "data-frame": k.frame,
      "aria-label": "focus at frame " + k.frame, "aria-valuemin": c.first, "aria-valuemax": c.last,
      "aria-valuenow": k.frame, "aria-valuetext": `frame ${k.frame}, ${k.on}, ${k.said}`
    });
    key.append(svg("title", {}, `frame ${k.frame}: ${k.on}, ${k.said} (${k.ease})`), svg("circle", { cx: x, cy: y, r: 7 }));
    if (words && x > said_to) {
      const end = x > to.width - 120;
      key.append(svg("text", { x: end ? x + 6 : x - 6, y: y - 11, "text-anchor": end ? "end" : "start" }, words));
      said_to = x + 7 * words.length;
    }
    into.append(key);
    if (focused === k.frame) key.focus({ preventScroll: true });
  }
  show_key();
};
// What can be done with the key of the frame that is shown.
const key_now = () => curve?.keys.find((k) => k.frame === state.frames.now);
const show_key = () => {
  const k = key_now();
  $("key-part").hidden = !k;
  if (!k) return;
  $("key-said").textContent = `key: ${k.on}`;
  $("key-ease").value = k.ease;
  $("key-ease").disabled = k === curve.keys[0];
  $("key-drop").disabled = curve.keys.length < 2;
};
export const show_curve = async () => {
  if (!state.frames) return;
  if (busy) return;
  if (shown === state.version && curve) return draw();
  busy = true;
  const version = state.version;
  try {
    const answer = await fetch("curve?v=" + version);
    if (answer.ok) {
      curve = await answer.json();
      shown = version;
      draw();
    }
  } catch { /* the next state brings another */ }
  busy = false;
  if (shown !== state.version && shown === version) show_curve();
};

// One question at a time; a key is called by the frame that it stands at, which a drag changes.
let sending = false;
let next = null;
let aim = null;  // where a key that is nudged is on its way to
const send = async () => {
  if (sending || !next) return;
  sending = true;
  const { key, to, at } = next;
  next = null;
  try {
    const words = { frame: key.frame, touch: key.touch, ...(at ? { at } : {}) };
    const free = !curve.keys.some((k) => k.frame === to);
    if (to !== key.frame && free) words.to = to;
    const json = await post("focus-key", words);
    if (!json.error && words.to !== undefined) {
      if (focused === key.frame) focused = words.to;
      key.frame = words.to;
    }
    await show_curve();
  } catch (e) {
    complain(e.message);
  }
  sending = false;
  if (!next) aim = null;
  send();
};
const on_curve = (event) => {
  const b = $("curve").getBoundingClientRect();
  const to = scale_of(curve);
  const x = ((event.clientX - b.left) / b.width) * to.width;
  return { frame: to.frame(x), client: { x: event.clientX, y: event.clientY } };
};
const clamped = (frame) => Math.min(curve.last, Math.max(curve.first, frame));
// The scale is that of the beginning, although the curve changes meanwhile.
const grip_of = (k, from) => {
  const to = scale_of(curve);
  return {
    frame: k.frame, began: k.frame, d: dioptres(k.m), touch: new_touch("curve"), from, moved: false, up: false,
    frames_a_px: (curve.last - curve.first) / (to.x(curve.last) - to.x(curve.first) || 1),
    dioptres_a_px: (to.high - to.low) / (to.y(to.low) - to.y(to.high))
  };
};
// The frame slider goes there, with all that belongs to it.
const go_to = (frame) => {
  $("frame").value = frame;
  $("frame").dispatchEvent(new Event("input"));
};
$("curve").addEventListener("pointerdown", (event) => {
  if (!curve) return;
  const at = on_curve(event);
  const key = event.target.closest?.(".key");
  grip = key
    ? grip_of(curve.keys.find((k) => k.frame === +key.dataset.frame), at)
    : { scrub: true };
  if (grip.scrub) go_to(at.frame);
  look.dragging = true;
  $("curve").setPointerCapture(event.pointerId);
  event.preventDefault();
  key?.focus({ preventScroll: true });
});
$("curve").addEventListener("pointermove", (event) => {
  if (!grip) return;
  const at = on_curve(event);
  if (grip.scrub) return go_to(at.frame);
  // As the pointer went: the page may have moved below it meanwhile.
  const along = at.client.x - grip.from.client.x;
  const down = at.client.y - grip.from.client.y;
  grip.moved ||= Math.hypot(along, down) > 4;
  // A key that is only taken along stays on what it is on.
  grip.up ||= Math.abs(down) > 8;
  if (!grip.moved) return;
  const to = clamped(grip.began + Math.round(along * grip.frames_a_px));
  next = { key: grip, to, at: grip.up ? distance_text(Math.max(0, grip.d - down * grip.dioptres_a_px)) : "" };
  send();
});
const let_go = () => {
  if (!grip) return;
  if (!grip.scrub && !grip.moved) go_to(grip.frame);
  grip = null;
  look.dragging = false;
  refresh();
};
$("curve").addEventListener("pointerup", let_go);
$("curve").addEventListener("pointercancel", let_go);
$("curve").addEventListener("focusin", (event) => {
  if (event.target.dataset.frame !== undefined) focused = +event.target.dataset.frame;
});
document.addEventListener("pointerdown", (event) => {
  if (!$("curve").contains(event.target)) focused = null;
});
$("curve").addEventListener("keydown", (event) => {
  if (event.key === "Tab") focused = null;
  const k = curve?.keys.find((one) => one.frame === +event.target.dataset?.frame);
  if (!k) return;
  const step = event.shiftKey ? 10 : 1;
  const to = scale_of(curve);
  const up = step * 0.02 * (to.high - to.low);
  const ways = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, up], ArrowDown: [0, -up] };
  if (ways[event.key]) {
    const [along, d] = ways[event.key];
    const from = aim ?? { key: { frame: k.frame, touch: "" }, to: k.frame, d: dioptres(k.m) };
    aim = { key: from.key, to: clamped(from.to + along), d: Math.max(0, from.d + d) };
    next = { key: aim.key, to: aim.to, at: d === 0 ? next?.at ?? "" : distance_text(aim.d) };
    send();
  } else if (event.key === "Delete") {
    const others = curve.keys.filter((one) => one !== k);
    focused = others.length > 0 ? others[Math.min(curve.keys.indexOf(k), others.length - 1)].frame : null;
    post("focus-key", { frame: k.frame, drop: "1" });
  } else if (event.key === "Enter") {
    go_to(k.frame);
  } else {
    return;
  }
  event.preventDefault();
});
for (const words of ["step", "linear", "smooth", "slow start", "slow stop", "overshoot", "search"]) {
  $("key-ease").append(make("option", words));
}
$("key-ease").addEventListener("change", () => post("focus-key", { frame: state.frames.now, ease: $("key-ease").value }));
$("key-drop").addEventListener("click", () => post("focus-key", { frame: state.frames.now, drop: "1" }));
window.addEventListener("resize", () => curve && state?.frames && draw());
