// Wishes, tries, undo, and what is written.
import { $, button, complain, make, state } from "./common.js";
import { paint, pixels, post } from "./ask.js";
import { key_words } from "./curve.js";
import { ended } from "./live.js";
import { after_drags } from "./plan.js";

$("hold").addEventListener("click", () => post("hold", { a: $("hold-a").value, b: $("hold-b").value, ...key_words() }));
$("blur").addEventListener("click", () => post("blur", { at: $("blur-at").value, px: $("blur-px").value }));
$("match").addEventListener("click", () => post("match"));
$("take-match").addEventListener("click", () =>
  post("change", { set: state.match.values.map((v) => v.key + "=" + v.text) }));
for (const what of ["undo", "redo", "reset"]) {
  $(what).addEventListener("click", async () => {
    await after_drags();
    post(what);
  });
}
$("end").addEventListener("click", async () => {
  await post("end").catch(() => {});
  ended();
});
$("keep").addEventListener("click", async () => {
  await post("keep", { name: $("keep-name").value.trim() });
  $("keep-name").value = "";
});
$("write").addEventListener("click", () => post("write"));
$("write-variant").addEventListener("click", () => {
  const name = $("variant").value.trim();
  if (!name) {
    complain("A variant needs a name.");
    $("variant").focus();
    return;
  }
  post("write", { variant: name });
});
let before = null;  // the try that was shown before this one
const take_try = (i) => {
  const now = state.tries.findIndex((t) => t.now);
  if (now >= 0 && now !== i) before = now;
  return post("take", { try: i });
};
$("flip").addEventListener("click", () => {
  const n = state.tries.length;
  if (n === 0) return;
  const now = state.tries.findIndex((t) => t.now);
  let to = before !== null && before < n && before !== now ? before : (now + n - 1) % n;
  if (now < 0) to = n - 1;
  before = now < 0 ? null : now;
  post("take", { try: to });
});
document.addEventListener("keydown", (event) => {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
  if (event.target.matches("input[type=text], input[type=number]")) return;
  event.preventDefault();
  post(event.shiftKey ? "redo" : "undo");
});
export const show_tries = () => {
  const list = $("tries");
  const names = state.tries.map((t) => t.name).join("\n");
  if (list.dataset.names !== names) {
    list.dataset.names = names;
    list.textContent = "";
    state.tries.forEach((t, i) => {
      const item = make("li");
      const canvas = make("canvas");
      canvas.setAttribute("aria-hidden", "true");
      const bar = make("div", undefined, "bar");
      const show = button(t.name, () => take_try(i));
      show.setAttribute("aria-label", "Show " + t.name);
      const drop = button("×", () => post("drop", { try: i }));
      drop.setAttribute("aria-label", "Drop " + t.name);
      bar.append(show, drop);
      item.append(canvas, bar, make("small", t.values.join(", ") || "as in the file"));
      list.append(item);
      pixels("thumb?try=" + i).then((p) => paint(canvas, p)).catch(() => {});
    });
  }
  state.tries.forEach((t, i) => list.children[i].classList.toggle("now", t.now));
  $("flip").disabled = state.tries.length < 1;
  $("keep-name").placeholder = "try " + (state.tries.length + 1);
};
