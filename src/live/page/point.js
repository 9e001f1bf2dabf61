// Pointing into the picture: what is there, focus there, and moving a part.
import { $, state } from "./common.js";
import { post } from "./ask.js";
import { key_words } from "./curve.js";
import { centre, part, refresh } from "./picture.js";

const cross = { x: 0.5, y: 0.5 };
const place_of = (event) => {
  const b = $("cg").getBoundingClientRect();
  const u = (event.clientX - b.left) / b.width;
  const v = (event.clientY - b.top) / b.height;
  return spot(u, v);
};
const spot = (u, v) => {
  const box = part();
  if (!box) return { x: u, y: v };
  return { x: (box.x + u * box.width) / state.size[0], y: (box.y + v * box.height) / state.size[1] };
};
let asking = false;
let ask_next = null;
let last_place = null;
const tell_place = async (p) => {
  last_place = p;
  ask_next = p;
  if (asking) return;
  asking = true;
  while (ask_next) {
    const at = ask_next;
    ask_next = null;
    try {
      const told = await (await fetch(`place?x=${at.x}&y=${at.y}`)).json();
      $("readout").textContent = told.said || told.error;
    } catch {
      $("readout").textContent = "";
    }
  }
  asking = false;
};
// Once more: what is there may be blurred otherwise now.
export const tell_again = () => { if (last_place) tell_place(last_place); };
const focus_at = async (p) => {
  const by = p.distance ? { by: "distance" } : {};
  await post("focus", { x: p.x, y: p.y, ...by, ...key_words() });
};
let drag = null;
$("cg").addEventListener("pointerdown", (event) => {
  drag = { x: event.clientX, y: event.clientY, from: { ...centre }, moved: false };
  $("cg").setPointerCapture(event.pointerId);
});
$("cg").addEventListener("pointermove", (event) => {
  if (!state) return;
  if (drag) {
    const dx = event.clientX - drag.x;
    const dy = event.clientY - drag.y;
    if (Math.hypot(dx, dy) > 4) drag.moved = true;
    const box = part();
    if (box && drag.moved) {
      const b = $("cg").getBoundingClientRect();
      centre.x = Math.min(1, Math.max(0, drag.from.x - ((dx / b.width) * box.width) / state.size[0]));
      centre.y = Math.min(1, Math.max(0, drag.from.y - ((dy / b.height) * box.height) / state.size[1]));
      refresh();
      return;
    }
  }
  tell_place(place_of(event));
});
$("cg").addEventListener("pointerup", (event) => {
  const was = drag;
  drag = null;
  if (was && !was.moved) focus_at({ ...place_of(event), distance: event.shiftKey });
});
$("cg").addEventListener("keydown", (event) => {
  const step = event.shiftKey ? 0.05 : 0.01;
  const ways = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] };
  if (ways[event.key]) {
    cross.x = Math.min(0.999, Math.max(0, cross.x + ways[event.key][0]));
    cross.y = Math.min(0.999, Math.max(0, cross.y + ways[event.key][1]));
    $("cross").style.display = "block";
    $("cross").style.left = 100 * cross.x + "%";
    $("cross").style.top = 100 * cross.y + "%";
    tell_place(spot(cross.x, cross.y));
    event.preventDefault();
  } else if (event.key === "Enter" || event.key === " ") {
    focus_at(spot(cross.x, cross.y));
    event.preventDefault();
  }
});
$("cg").addEventListener("blur", () => { $("cross").style.display = "none"; });
