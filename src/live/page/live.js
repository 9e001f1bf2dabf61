"use strict";
(() => {
  const $ = (id) => document.getElementById(id);
  const make = (tag, words, kind) => {
    const e = document.createElement(tag);
    if (words !== undefined) e.textContent = words;
    if (kind) e.className = kind;
    return e;
  };
  const button = (words, run) => {
    const b = make("button", words);
    b.type = "button";
    b.addEventListener("click", run);
    return b;
  };

  let state = null;

  // ---- asking ------------------------------------------------------------------------------------
  const post = async (what, words = {}) => {
    const body = new URLSearchParams();
    for (const [name, value] of Object.entries(words)) {
      for (const v of Array.isArray(value) ? value : [value]) body.append(name, v);
    }
    const answer = await fetch("do/" + what, { method: "POST", body, headers: { "X-Jolly-Iris": "1" } });
    const along = +answer.headers.get("X-State");
    if (along) {  // the state, and behind it the draft
      const bytes = await answer.arrayBuffer();
      const json = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 0, along)));
      take(json, picture_of(answer, bytes.slice(along)));
      return json;
    }
    const json = await answer.json();
    if (json.serial !== undefined) take(json);
    return json;
  };
  const picture_of = (answer, bytes) => {
    const width = +answer.headers.get("X-Width");
    const height = +answer.headers.get("X-Height");
    return {
      width, height,
      version: +answer.headers.get("X-Version"),
      draft: answer.headers.get("X-Draft") === "1",
      image: new ImageData(new Uint8ClampedArray(bytes), width, height)
    };
  };
  const pixels = async (path) => {
    const answer = await fetch(path);
    if (!answer.ok) {
      const told = await answer.json().catch(() => ({ error: "no answer" }));
      throw Object.assign(new Error(told.error), { status: answer.status });
    }
    if (answer.status === 204) {  // given up for a newer state
      throw Object.assign(new Error("given up"), { status: 204 });
    }
    return picture_of(answer, await answer.arrayBuffer());
  };
  const paint = (canvas, p) => {
    if (canvas.width !== p.width || canvas.height !== p.height) {
      canvas.width = p.width;
      canvas.height = p.height;
    }
    canvas.getContext("2d").putImageData(p.image, 0, 0);
  };
  const complain = (words) => {
    $("alert").hidden = !words;
    $("alert").textContent = words || "";
  };

  // ---- the picture -------------------------------------------------------------------------------
  // A draft as soon as there is something new, the whole once nothing moves. One question at a time;
  // what comes back for an older state than what is shown is left out.
  const look = { busy: false, shown: 0, whole: 0, dragging: false, wanted: 0, again: false, image: null };
  const still_after = 140;  // ms without a change: short enough to feel immediate
  let mode = "cg";
  let zoom = "fit";
  const centre = { x: 0.5, y: 0.5 };  // of the part that is shown enlarged

  const stage_size = () => {
    const [w, h] = state.size;
    const wide = $("stage").clientWidth;
    return { width: wide, height: Math.round((wide * h) / w) };
  };
  const part = () => {
    if (zoom === "fit") return null;
    const [w, h] = state.size;
    const s = stage_size();
    const width = Math.min(w, Math.max(1, Math.round(s.width / +zoom)));
    const height = Math.min(h, Math.max(1, Math.round(s.height / +zoom)));
    const x = Math.min(w - width, Math.max(0, Math.round(centre.x * w - width / 2)));
    const y = Math.min(h - height, Math.max(0, Math.round(centre.y * h - height / 2)));
    return { x, y, width, height };
  };
  // What a draft is asked for with a change; nothing where a part is looked at.
  const draft_words = () => {
    if (part()) return {};
    const words = { detail: "draft", w: 480, h: 300 };
    if ($("shade").checked) words.shade = "1";
    if ($("exposed").checked) words.exposed = "1";
    return words;
  };
  const path_of = (detail) => {
    const words = new URLSearchParams({ detail, v: state.version });
    if ($("shade").checked) words.set("shade", "1");
    if ($("exposed").checked) words.set("exposed", "1");
    const box = part();
    if (box) {
      words.set("box_x", box.x);
      words.set("box_y", box.y);
      words.set("box_w", box.width);
      words.set("box_h", box.height);
    } else if (detail === "draft") {
      words.set("w", 480);
      words.set("h", 300);
    }
    return "picture?" + words;
  };
  const show = (p, whole) => {
    if (p.version < look.shown) return false;
    look.shown = p.version;
    look.image = p;
    paint($("cg"), p);
    look.whole = whole && !p.draft ? p.version : 0;
    $("stage").dataset.version = p.version;
    $("stage").dataset.whole = look.whole ? "1" : "0";
    difference();
    return true;
  };
  let still = 0;
  const refresh = () => {
    look.wanted += 1;
    moved_at = performance.now();
    pump();
  };
  const came_along = (p) => {
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
      if (turn === look.wanted) still = setTimeout(settle, look.dragging ? 400 : still_after);
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
    if (last_place) tell_place(last_place);
  };
  const settle = async () => {
    if (look.busy || part()) return;
    look.busy = true;
    const turn = look.wanted;
    const waits = setInterval(() => {  // a new change goes first: the picture under way is given up
      if (turn !== look.wanted) { clearInterval(waits); look.busy = false; pump(); }
    }, 15);
    try {
      const p = await pixels(path_of("whole"));
      if (turn === look.wanted) show(p, true);
    } catch (e) {
      if (e.status !== 204) complain(e.message);
      else if (turn === look.wanted) still = setTimeout(refresh, 30);
    }
    clearInterval(waits);
    if (turn === look.wanted) look.busy = false;
  };

  const read_plate = async () => {
    const [w, h] = state.size;
    try {
      paint($("plate"), await pixels(`plate?w=${w}&h=${h}`));
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
    if (mode !== "cg" && $("plate").width === 300) read_plate();
    fit();
    difference();
  };
  const fit = () => {
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
    try {
      const version = state.version;
      const p = await pixels(`truth?w=${Math.min(1280, s.width)}&h=${Math.min(1200, s.height)}&samples=64`);
      if (version === state.version) {
        paint($("cg"), p);
        $("readout").textContent = "Traced through the lens, 64 rays a pixel: the truth of this scene.";
      }
    } catch (e) {
      complain(e.message);
    }
  });

  // ---- pointing ----------------------------------------------------------------------------------
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
  const focus_at = async (p) => {
    const by = p.distance ? { by: "distance" } : {};
    await post("focus", { x: p.x, y: p.y, ...by });
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

  // ---- values ------------------------------------------------------------------------------------
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
  let pending_touch = "";
  let posting = false;
  let touch = "";
  let touches = 0;
  const send = async () => {
    if (posting || pending.size === 0) return;
    posting = true;
    const set = [...pending].map(([key, text]) => key + "=" + text);
    pending = new Map();
    const touch = pending_touch;
    try {
      await post("change", { set, touch, ...draft_words(), ...($("keep-framing")?.checked ? { keep: "1" } : {}) });
    } catch (e) {
      complain("the tool does not answer: " + e.message);
    }
    posting = false;
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
    const begin = () => { touches += 1; touch = c.key + touches; look.dragging = true; };
    const finish = () => { look.dragging = false; touch = ""; refresh(); };
    range.addEventListener("pointerdown", begin);
    range.addEventListener("pointerup", finish);
    range.addEventListener("pointercancel", finish);
    range.addEventListener("input", () => {
      const words = text_of(entry.c, value_at(entry.c, +range.value));
      text.value = words;
      range.setAttribute("aria-valuetext", words);
      turn(entry.c.key, words);
    });
    const typed = () => {
      if (text.value.trim() && text.value !== shown_text(entry.c)) turn(entry.c.key, text.value.trim());
    };
    text.addEventListener("change", typed);
    row.addEventListener("wheel", (event) => {
      event.preventDefault();
      const way = event.deltaY < 0 ? 1 : -1;
      const step = range.max - range.min > 100 ? 10 : 1;
      range.value = +range.value + way * step;
      range.dispatchEvent(new Event("input"));
    }, { passive: false });
    rows.set(c.key, entry);
    return row;
  };
  const focus_keys = () => state.values.map((v) => v.key).filter((k) => k.startsWith("focus.") && k !== "focus.offset");
  const fill_row = (c) => {
    const e = rows.get(c.key);
    e.c = c;
    e.row.classList.toggle("changed", c.changed);
    e.row.classList.toggle("guessed", c.guessed);
    e.row.title = c.noted === null ? "" : "in the file: " + text_of(c, c.noted);
    const moving = pending.has(c.key);
    e.range.min = c.law === "whole" ? c.min : 0;
    e.range.max = c.law === "whole" ? c.max : c.law === "stop" && !free_stop ? marks_of(c).length - 1 : fine;
    if (!moving && !(look.dragging && document.activeElement === e.range)) e.range.value = position(c);
    e.range.setAttribute("aria-valuetext", shown_text(c));
    if (!moving && document.activeElement !== e.text) e.text.value = shown_text(c);
  };
  const build_controls = () => {
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
    if (state.looks.length > 0) {
      form.append(make("h2", "look"));
      const row = make("div", undefined, "wide");
      const label = make("label", "lens.look");
      label.htmlFor = "look";
      const select = make("select");
      select.id = "look";
      select.append(new Option("as in the file", ""));
      for (const file of state.looks) select.append(new Option(file.replace(/^.*\//, ""), file));
      select.addEventListener("change", () =>
        post("change", select.value ? { set: "lens.look=" + select.value } : { clear: "lens.look" }));
      row.append(label, select);
      form.append(row);
    }
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
    form.append(any, make("ul"));
    form.addEventListener("submit", (event) => event.preventDefault());
  };

  // ---- the set from above ------------------------------------------------------------------------
  let plan_shown = 0;
  let plan_busy = false;
  let panels = [];
  const plan_size = [1280, 800];  // the drawing's own
  const show_plan = async () => {
    if (plan_busy || plan_shown === state.version || !$("plan-frame").parentElement.open) return;
    plan_busy = true;
    const version = state.version;
    const img = new Image();
    img.src = "plan.png?v=" + version;
    try {
      await img.decode();
      panels = (await (await fetch("plan?panels=1&v=" + version)).json()).panels;
      $("plan").src = img.src;
      plan_shown = version;
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
    const px = (m) => (m === null ? Infinity : panel.x + (m - panel.ahead_m) * panel.px_per_m);
    const lines = [["focus", px(state.focus_m)], ["near", px(state.near_m)], ["far", px(state.far_m)]];
    lines.sort((a, b) => Math.abs(a[1] - at.x) - Math.abs(b[1] - at.x));
    touches += 1;
    gripped = { panel, what: Math.abs(lines[0][1] - at.x) < 40 ? lines[0][0] : "focus", near: state.near_m,
                far: state.far_m, touch: "plan" + touches };
    look.dragging = true;
    $("plan-frame").setPointerCapture(event.pointerId);
    event.preventDefault();
  });
  let plan_posting = false;
  let plan_next = null;
  const plan_send = async () => {
    if (plan_posting || !plan_next) return;
    plan_posting = true;
    const [what, words] = plan_next;
    plan_next = null;
    try { await post(what, words); } catch (e) { complain(e.message); }
    plan_posting = false;
    plan_send();
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
      plan_next = ["change", { set: "focus.at=" + words, touch: gripped.touch }];
    } else {
      const other = gripped.what === "near" ? gripped.far : gripped.near;
      const said = other === null ? "infinity" : other.toPrecision(4) + " m";
      plan_next = ["hold", { a: words, b: said, touch: gripped.touch }];
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

  // ---- wishes, tries, files ----------------------------------------------------------------------
  $("hold").addEventListener("click", () => post("hold", { a: $("hold-a").value, b: $("hold-b").value }));
  $("blur").addEventListener("click", () => post("blur", { at: $("blur-at").value, px: $("blur-px").value }));
  $("match").addEventListener("click", () => post("match"));
  $("take-match").addEventListener("click", () =>
    post("change", { set: state.match.values.map((v) => v.key + "=" + v.text) }));
  $("undo").addEventListener("click", () => post("undo"));
  $("redo").addEventListener("click", () => post("redo"));
  $("reset").addEventListener("click", () => post("reset"));
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
  let current = null;
  const take_try = (i) => {
    if (current !== i) before = current;
    current = i;
    return post("take", { try: i });
  };
  $("flip").addEventListener("click", () => {
    const n = state.tries.length;
    if (n === 0) return;
    const now = state.tries.findIndex((t) => t.now);
    let to = before !== null && before < n && before !== now ? before : (now + n - 1) % n;
    if (now < 0) to = n - 1;
    before = now < 0 ? null : now;
    current = to;
    post("take", { try: to });
  });
  document.addEventListener("keydown", (event) => {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
    if (event.target.matches("input[type=text], input[type=number]")) return;
    event.preventDefault();
    post(event.shiftKey ? "redo" : "undo");
  });
  const show_tries = () => {
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

  // ---- frames ------------------------------------------------------------------------------------
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

  // ---- taking a state in -------------------------------------------------------------------------
  const options = (select, names, wanted) => {
    if (select.dataset.names === names.join("\n")) return;
    const was = select.value;
    select.dataset.names = names.join("\n");
    select.textContent = "";
    for (const n of names) select.append(new Option(n, n));
    select.value = names.includes(was) ? was : names[Math.min(wanted, names.length - 1)] ?? "";
  };
  const take = (json, picture) => {
    const first = state === null;
    if (!first && json.serial < state.serial) return;
    // The same again, as who waits for news gets it after an answer of one's own.
    if (!first && json.serial === state.serial && !json.error && !$("alert").textContent) return;
    const old = state;
    state = json;
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
    $("undo").disabled = !json.can_undo;
    $("redo").disabled = !json.can_redo;
    $("reset").disabled = json.values.length === 0;
    $("write").disabled = json.values.length === 0;
    $("write-variant").disabled = json.values.length === 0;
    if (json.told || json.error) $("told").textContent = json.told;
    if (first) build_controls();
    for (const c of json.controls) fill_row(c);
    if ($("look")) $("look").value = json.values.find((v) => v.key === "lens.look")?.text ?? "";
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
    $("frames").hidden = !json.frames;
    if (json.frames) {
      $("frame").min = json.frames.first;
      $("frame").max = json.frames.last;
      if (!(look.dragging && document.activeElement === $("frame"))) $("frame").value = json.frames.now;
      $("frame-now").textContent = json.frames.now;
    }
    show_tries();
    fit();
  };
  document.querySelector("#plan-frame").parentElement.addEventListener("toggle", () => state && show_plan());

  const ended = () => {
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
})();
