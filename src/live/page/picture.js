// The picture: drafts, the whole, parts, and how the plate stands beside it.
import { $, complain, make, state } from "./common.js";
import { paint, pixels } from "./ask.js";
import { show_plan } from "./plan.js";
import { tell_again } from "./point.js";

// A draft as soon as there is something new, the whole once nothing moves. One question at a time;
// what comes back for an older state than what is shown is left out.
export const look = { busy: false, begun: false, shown: 0, dragging: false, wanted: 0 };
const still_after = 140;  // ms without a change: short enough to feel immediate
let mode = "cg";
let zoom = "fit";
export const centre = { x: 0.5, y: 0.5 };  // of the part that is shown enlarged

const stage_size = () => {
  const [w, h] = state.size;
  const wide = $("stage").clientWidth;
  return { width: wide, height: Math.round((wide * h) / w) };
};
export const part = () => {
  if (zoom === "fit") return null;
  const [w, h] = state.size;
  const s = stage_size();
  const width = Math.min(w, Math.max(1, Math.round(s.width / +zoom)));
  const height = Math.min(h, Math.max(1, Math.round(s.height / +zoom)));
  const x = Math.min(w - width, Math.max(0, Math.round(centre.x * w - width / 2)));
  const y = Math.min(h - height, Math.max(0, Math.round(centre.y * h - height / 2)));
  return { x, y, width, height };
};
const ways_of_showing = () => ({
  ...($("shade").checked ? { shade: "1" } : {}), ...($("exposed").checked ? { exposed: "1" } : {}),
    ...($("finished").checked ? { finished: "1" } : {})
});
const draft_size = { w: 480, h: 300 };
// What a draft is asked for with a change; nothing where a part is looked at.
export const draft_words = () => (part() ? {} : { detail: "draft", ...draft_size, ...ways_of_showing() });
const box_words = (box) => ({ box_x: box.x, box_y: box.y, box_w: box.width, box_h: box.height });
const path_of = (detail) => {
  const box = part();
  const where = box ? box_words(box) : detail === "draft" ? draft_size : {};
  return "picture?" + new URLSearchParams({ detail, v: state.version, ...where, ...ways_of_showing() });
};
const show = (p, whole) => {
  if (p.version < look.shown) return;
  look.shown = p.version;
  paint($("cg"), p);
  $("stage").dataset.version = p.version;
  $("stage").dataset.whole = whole && !p.draft ? "1" : "0";
  difference();
};
let still = 0;
export const refresh = () => {
  look.wanted += 1;
  moved_at = performance.now();
  pump();
};
export const came_along = (p) => {
  look.wanted += 1;
  moved_at = performance.now();
  clearTimeout(still);
  show(p, false);
  still = setTimeout(settle, look.dragging ? 400 : still_after);
  beside();
};
const pump = async () => {
  if (look.busy || !state) return;
  look.busy = true;
  const turn = look.wanted;
  clearTimeout(still);
  try {
    show(await pixels(path_of("draft")), part() !== null);
    const waits = look.dragging ? 400 : look.begun ? still_after : 0;  // nobody turns anything yet
    look.begun = true;
    if (turn === look.wanted) still = setTimeout(settle, waits);
  } catch (e) {
    if (e.status === 204) still = setTimeout(refresh, 30);  // another page turned something meanwhile
    else complain(e.message);
  }
  look.busy = false;
  if (turn !== look.wanted) pump();
  else beside();
};
// What goes along with the picture comes once nothing moves: it would hold the next draft up.
let moved_at = 0;
let beside_timer = 0;
const beside = () => {
  clearTimeout(beside_timer);
  if (look.dragging || performance.now() - moved_at < 300) {
    beside_timer = setTimeout(beside, 300);
    return;
  }
  show_plan();
  tell_again();
};
const settle = async () => {
  if (look.busy || part()) return;
  look.busy = true;
  const turn = look.wanted;
  let given_up = false;
  const waits = setInterval(() => {  // a new change goes first: the picture under way is given up
    if (turn === look.wanted) return;
    clearInterval(waits);
    given_up = true;
    look.busy = false;
    pump();
  }, 15);
  try {
    const p = await pixels(path_of("whole"));
    if (turn === look.wanted) show(p, true);
  } catch (e) {
    if (e.status !== 204) complain(e.message);
    else if (turn === look.wanted) still = setTimeout(refresh, 30);
  }
  clearInterval(waits);
  if (given_up) return;  // who is busy now is somebody else
  look.busy = false;
  if (turn !== look.wanted) pump();  // it came between the change and the look at the clock
};

let plate_of = 0;  // which state of the plate is shown
const read_plate = async () => {
  const [w, h] = state.size;
  try {
    const plate = state.plate;
    paint($("plate"), await pixels(`plate?w=${w}&h=${h}&v=${plate}`));
    plate_of = plate;
    difference();
  } catch (e) {
    complain(e.message);
  }
};
const difference = () => {
  if (mode !== "difference") return;
  const a = $("cg");
  const b = $("plate");
  const canvas = $("difference");
  canvas.width = a.width;
  canvas.height = a.height;
  const g = canvas.getContext("2d");
  g.drawImage(b, 0, 0, a.width, a.height);
  const out = g.getImageData(0, 0, a.width, a.height);
  const other = a.getContext("2d").getImageData(0, 0, a.width, a.height).data;
  // Mid-grey where they are equal.
  for (let i = 0; i < out.data.length; i += 1) {
    if (i % 4 !== 3) out.data[i] = 128 + (other[i] - out.data[i]) / 2;
  }
  g.putImageData(out, 0, 0);
};
let blinking = 0;
const set_mode = (value) => {
  mode = value;
  $("stage").dataset.mode = mode;
  $("part-label").hidden = mode !== "line";
  clearInterval(blinking);
  if (mode === "blink") {
    blinking = setInterval(() => {
      const s = $("stage");
      s.dataset.lid = s.dataset.lid === "open" ? "closed" : "open";
    }, 700);
  }
  if (mode !== "cg" && plate_of !== state.plate) read_plate();
  fit();
  difference();
};
export const fit = () => {
  if (!state) return;
  const s = stage_size();
  $("stage").style.height = (mode === "beside" ? s.height / 2 : s.height) + "px";
};
const choices = (into, name, list, pick) => {
  for (const [value, words] of list) {
    const label = make("label");
    const input = make("input");
    input.type = "radio";
    input.name = name;
    input.value = value;
    input.checked = value === list[0][0];
    input.addEventListener("change", () => pick(value));
    label.append(input, make("span", words));
    $(into).append(label);
  }
};
choices("modes", "mode", [["cg", "picture"], ["beside", "beside"], ["line", "line"],
                          ["difference", "difference"], ["blink", "blink"]], set_mode);
choices("zooms", "zoom", [["fit", "fit"], ["1", "1:1"], ["4", "4:1"]], (value) => {
  zoom = value;
  $("stage").dataset.zoom = zoom;
  refresh();
});
$("shade").addEventListener("change", refresh);
$("exposed").addEventListener("change", refresh);
$("finished").addEventListener("change", refresh);
window.addEventListener("resize", () => { fit(); refresh(); });

const divide = (at) => {
  const share = Math.min(100, Math.max(0, at));
  $("part").value = share;
  $("stage").style.setProperty("--at", share + "%");
};
$("part").addEventListener("input", () => divide(+$("part").value));
$("divider").addEventListener("pointerdown", (event) => {
  $("divider").setPointerCapture(event.pointerId);
  event.stopPropagation();
});
$("divider").addEventListener("pointermove", (event) => {
  if (!$("divider").hasPointerCapture(event.pointerId)) return;
  const b = $("stage").getBoundingClientRect();
  divide((100 * (event.clientX - b.left)) / b.width);
});

$("trace").addEventListener("click", async () => {
  $("readout").textContent = "tracing …";
  const s = stage_size();
  const box = part();
  const where = box ? box_words(box) : { w: Math.min(1280, s.width), h: Math.min(1200, s.height) };
  try {
    const version = state.version;
    const p = await pixels("truth?" + new URLSearchParams({ ...where, samples: 64 }));
    if (version === state.version) {
      paint($("cg"), p);
      $("readout").textContent = "Traced through the lens, 64 rays a pixel: the truth of this scene.";
    }
  } catch (e) {
    complain(e.message);
  }
});

// The plate may have been saved anew.
export const plate_again = () => {
  if (mode !== "cg" && plate_of !== state.plate) read_plate();
};
