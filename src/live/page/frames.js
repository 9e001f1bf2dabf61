// Frames, where something moves.
import { $, state } from "./common.js";
import { post } from "./ask.js";
import { show_curve } from "./curve.js";
import { look, refresh } from "./picture.js";

let playing = false;
let frame_posting = false;
let frame_next = null;
const go = async (frame) => {
  frame_next = frame;
  if (frame_posting) return;
  frame_posting = true;
  while (frame_next !== null) {
    const f = frame_next;
    frame_next = null;
    await post("frame", { frame: f });
  }
  frame_posting = false;
};
$("frame").addEventListener("input", () => go(+$("frame").value));
$("frame").addEventListener("pointerdown", () => { look.dragging = true; });
$("frame").addEventListener("pointerup", () => { look.dragging = false; refresh(); });
$("play").addEventListener("click", async () => {
  playing = !playing;
  $("play").textContent = playing ? "Stop" : "Play";
  look.dragging = playing;
  while (playing) {
    const next = state.frames.now + 1 > state.frames.last ? state.frames.first : state.frames.now + 1;
    const begun = performance.now();
    await go(next);
    while (look.busy && performance.now() - begun < 1000) await new Promise((r) => setTimeout(r, 5));
    await new Promise((r) => setTimeout(r, Math.max(0, 40 - (performance.now() - begun))));
  }
  refresh();
});

let keyed = null;  // whether the shot had keys of the focus when the page last asked
export const show_frames = (frames) => {
  $("frames").hidden = !frames;
  if (!frames) return;
  $("frame").min = frames.first;
  $("frame").max = frames.last;
  if (!(look.dragging && document.activeElement === $("frame"))) $("frame").value = frames.now;
  $("frame-now").textContent = frames.now;
  // Where the focus is pulled, another focus for all frames is hardly meant.
  if (keyed !== frames.pulled) $("focus-key").checked = keyed = frames.pulled;
  show_curve();
};
