// Taking a state in: what the tool says, written all over the page.
import { $, button, complain, make, set_state, state } from "./common.js";
import { post } from "./ask.js";
import { came_along, fit, plate_again, refresh } from "./picture.js";
import { build_controls, fill_looks, fill_row } from "./values.js";
import { show_tries } from "./tries.js";
import { show_frames } from "./frames.js";

const options = (select, names, wanted) => {
  if (select.dataset.names === names.join("\n")) return;
  const was = select.value;
  select.dataset.names = names.join("\n");
  select.textContent = "";
  for (const n of names) select.append(new Option(n, n));
  select.value = names.includes(was) ? was : names[Math.min(wanted, names.length - 1)] ?? "";
};
export const take = (json, picture) => {
  const first = state === null;
  if (!first && json.serial < state.serial) return;
  // The same again, as who waits for news gets it after an answer of one's own.
  if (!first && json.serial === state.serial && !json.error && !$("alert").textContent) return;
  const old = state;
  set_state(json);
  if (first) fit();
  if (picture && old.version !== json.version) came_along(picture);
  else if (first || old.version !== json.version) refresh();  // at once: the rest is written meanwhile
  clearTimeout(writing);
  if (first) write_state(json, true);
  else writing = setTimeout(() => write_state(json, false), 0);
};
let writing = 0;
const write_state = (json, first) => {
  complain([json.error, json.trouble].filter(Boolean).join("\n"));
  document.title = json.file + ", live";
  $("title").textContent = json.file + (json.variant ? ", " + json.variant : "");
  const changed = json.values.map((v) => v.key + " = " + v.text).join(", ");
  $("subtitle").textContent = json.source + (changed ? " · in the hand: " + changed : " · as in the file");
  $("subtitle").title = $("subtitle").textContent;
  $("undo").disabled = !json.can_undo;
  $("redo").disabled = !json.can_redo;
  $("reset").disabled = json.values.length === 0;
  $("write").disabled = json.values.length === 0;
  $("write-variant").disabled = json.values.length === 0;
  if (json.told || json.error) $("told").textContent = json.told;
  if (first) build_controls();
  for (const c of json.controls) fill_row(c);
  fill_looks();
  $("trace").hidden = !json.has_scene;
  for (const input of document.querySelectorAll("input[name=mode]")) {
    input.disabled = !json.has_plate && input.value !== "cg";
  }
  const table = $("subjects");
  table.textContent = "";
  for (const s of json.subjects) {
    const row = make("tr", undefined, s.sharp ? "sharp" : "");
    const said = s.partly ? "partly sharp" : s.sharp ? "sharp" : s.px > 0 ? "behind" : "in front";
    row.append(make("td", s.name), make("td", s.distance, "number"),
               make("td", (s.px > 0 ? "+" : "") + s.px.toFixed(1) + " px", "number"), make("td", said));
    table.append(row);
  }
  const facts = $("facts");
  facts.textContent = "";
  for (const [name, value] of json.facts) {
    const row = make("tr");
    const head = make("th", name);
    head.scope = "row";
    row.append(head, make("td", value));
    facts.append(row);
  }
  $("notes").textContent = "";
  for (const n of json.notes) $("notes").append(make("li", n));
  $("guesses-part").hidden = json.guesses.length === 0;
  $("guesses").textContent = "";
  for (const g of json.guesses) $("guesses").append(make("li", `${g.key} = ${g.text}: ${g.why}`));
  const names = json.subjects.filter((s) => s.m !== null).map((s) => s.name);
  options($("hold-a"), names, 0);
  options($("hold-b"), names, 1);
  options($("blur-at"), json.subjects.map((s) => s.name), json.subjects.length - 1);
  $("conflicts").textContent = "";
  for (const c of json.conflicts) {
    const box = make("div", undefined, "conflict");
    box.append(make("span", `${c.key}: you have ${c.in_hand}, the saved file now has ${c.in_file || "nothing"}.`),
               button("Keep mine", () => post("settle", { key: c.key, keep: "1" })),
               button("Take the file's", () => post("settle", { key: c.key, keep: "0" })));
    $("conflicts").append(box);
  }
  $("match-part").hidden = !json.has_plate;
  $("match").disabled = json.match.running;
  $("match").textContent = json.match.running ? "Measuring the plate …" : "Ask the plate";
  const said = json.match.trouble ? [json.match.trouble] : json.match.said;
  $("match-said").textContent = "";
  for (const words of said) $("match-said").append(make("li", words));
  for (const v of json.match.values) $("match-said").append(make("li", `${v.key} = ${v.text} (${v.why})`));
  $("take-match").hidden = json.match.values.length === 0;
  show_frames(json.frames);
  plate_again();
  show_tries();
  fit();
};

export const ended = () => {
  document.body.dataset.ended = "1";
  complain("This page has ended; start it again in the terminal.");
  for (const e of document.querySelectorAll("button, input, select")) e.disabled = true;
};
// News from outside: a file was saved, another page of this shot turned something.
const listen = async () => {
  let failures = 0;
  while (!document.body.dataset.ended) {
    try {
      const answer = await fetch(state ? "state?since=" + state.serial : "state");
      if (answer.ok) take(await answer.json());
      failures = 0;
    } catch {
      failures += 1;
      if (failures > 5) return ended();
      await new Promise((r) => setTimeout(r, 400));
    }
  }
};
listen();
