// The set from above, to drag in.
import { $, complain, state } from "./common.js";
import { post } from "./ask.js";
import { key_words } from "./curve.js";
import { look, refresh } from "./picture.js";
import { new_touch } from "./values.js";

let plan_shown = 0;
let plan_busy = false;
let panels = [];
let lines_shown = null;  // focus and limits of the state that the drawing shows: what a hand can see to grip
const plan_size = [1280, 800];  // the drawing's own
export const show_plan = async () => {
  if (plan_busy || plan_shown === state.version || !$("plan-frame").parentElement.open) return;
  plan_busy = true;
  const version = state.version;
  const { focus_m, near_m, far_m } = state;
  const img = new Image();
  img.src = "plan.png?v=" + version;
  try {
    await img.decode();
    panels = (await (await fetch("plan?panels=1&v=" + version)).json()).panels;
    $("plan").src = img.src;
    lines_shown = { focus_m, near_m, far_m };
    plan_shown = version;
    $("plan-frame").dataset.version = version;
  } catch { /* the next state brings another */ }
  plan_busy = false;
  if (state.version !== version) show_plan();
};
const on_plan = (event) => {
  const b = $("plan").getBoundingClientRect();
  const x = ((event.clientX - b.left) / b.width) * plan_size[0];
  const y = ((event.clientY - b.top) / b.height) * plan_size[1];
  return { x, y, scale: b.width / plan_size[0] };
};
let gripped = null;
const metres_in = (panel, x) => panel.ahead_m + (x - panel.x) / panel.px_per_m;
$("plan-frame").addEventListener("pointerdown", (event) => {
  const at = on_plan(event);
  const panel = [...panels].reverse().find((p) => at.x >= p.x && at.x <= p.x + p.width && at.y >= p.y && at.y <= p.y + p.height);
  if (!panel) return;
  const { focus_m, near_m, far_m } = lines_shown;
  const px = (m) => (m === null ? Infinity : panel.x + (m - panel.ahead_m) * panel.px_per_m);
  const lines = [["focus", px(focus_m)], ["near", px(near_m)], ["far", px(far_m)]];
  lines.sort((a, b) => Math.abs(a[1] - at.x) - Math.abs(b[1] - at.x));
  gripped = { panel, what: Math.abs(lines[0][1] - at.x) < 40 ? lines[0][0] : "focus", near: near_m,
              far: far_m, touch: new_touch("plan") };
  look.dragging = true;
  $("plan-frame").setPointerCapture(event.pointerId);
  event.preventDefault();
});
let plan_posting = null;  // what is under way
let plan_next = null;
const plan_send = () => {
  if (plan_posting || !plan_next) return;
  const [what, words] = plan_next;
  plan_next = null;
  plan_posting = post(what, words).catch((e) => complain(e.message)).then(() => {
    plan_posting = null;
    plan_send();
  });
};
// Whatever is pressed after a drag comes after it, and the drag's last steps do not come later still.
export const after_drags = async () => {
  plan_next = null;
  await plan_posting;
};
$("plan-frame").addEventListener("pointermove", (event) => {
  if (!gripped) return;
  const at = on_plan(event);
  const m = Math.max(0.02, metres_in(gripped.panel, at.x));
  const grip = $("plan-grip");
  grip.style.display = "block";
  grip.style.left = at.x * at.scale + "px";
  grip.style.top = gripped.panel.y * at.scale + "px";
  grip.style.height = gripped.panel.height * at.scale + "px";
  const words = m.toPrecision(4) + " m";
  if (gripped.what === "focus") {
    plan_next = ["change", { set: "focus.at=" + words, touch: gripped.touch, ...key_words() }];
  } else {
    const other = gripped.what === "near" ? gripped.far : gripped.near;
    const said = other === null ? "infinity" : other.toPrecision(4) + " m";
    plan_next = ["hold", { a: words, b: said, touch: gripped.touch, ...key_words() }];
  }
  plan_send();
});
const let_go = () => {
  if (!gripped) return;
  gripped = null;
  look.dragging = false;
  $("plan-grip").style.display = "none";
  refresh();
};
$("plan-frame").addEventListener("pointerup", let_go);
$("plan-frame").addEventListener("pointercancel", let_go);

$("plan-frame").parentElement.addEventListener("toggle", () => state && show_plan());
