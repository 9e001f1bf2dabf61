"use strict";
(() => {
  const shot = JSON.parse(document.getElementById("data").textContent);
  const $ = (id) => document.getElementById(id);
  const make = (tag, words, kind) => {
    const e = document.createElement(tag);
    if (words !== undefined) e.textContent = words;
    if (kind) e.className = kind;
    return e;
  };
  const metres = (m) =>
    m === null || !isFinite(m) ? "infinity" : (m < 10 ? m.toFixed(3) : m.toFixed(1)) + " m";

  // ---- what stands still ------------------------------------------------------------------------
  $("title").textContent = shot.title;
  $("subtitle").textContent = shot.subtitle;
  const show = (id, there) => {
    $(id).hidden = !there;
    if (!there) return;
    const link = make("a", $(id).querySelector("h2").textContent);
    link.href = "#" + id;
    document.querySelector("nav").append(link);
  };
  show("plate-part", shot.plate);
  show("compare-part", shot.compare);
  show("match-part", shot.match);
  show("steps-part", shot.steps.length > 0);
  show("camera-part", true);
  show("sharp-part", true);
  show("exposure-part", shot.exposure.length > 0);
  show("bokeh-part", shot.bokeh_sheet);
  show("plan-part", true);
  show("pictures-part", shot.pictures.length > 0);
  show("notes-part", shot.notes.length > 0);

  const numbers = (into, rows) => {
    for (const [name, value, more] of rows) {
      const row = make("tr");
      const head = make("th", name);
      head.scope = "row";
      row.append(head, make("td", value), make("td", more));
      into.append(row);
    }
  };
  numbers($("camera"), shot.camera);
  numbers($("exposure"), shot.exposure);
  $("exposure-frame").hidden = !shot.exposure_sheet;
  if (shot.exposure_sheet) {
    $("exposure-sheet").src = shot.exposure_sheet;
    $("exposure-sheet").alt = shot.exposure_words;
  }
  if (shot.bokeh_sheet) {
    $("bokeh-words").textContent = shot.bokeh_words;
    $("bokeh-sheet").src = shot.bokeh_sheet;
    $("bokeh-sheet").alt = "The lens's discs from the middle to the corners, by distance";
  }
  if (shot.match) {
    for (const words of shot.match.words) $("match-words").append(make("p", words));
    numbers($("found"), shot.match.found);
  }

  // ---- plate and CG, parted by a line that is dragged --------------------------------------------
  if (shot.compare) {
    $("compare-label").textContent = shot.compare.label;
    $("split-plate").src = shot.compare.plate;
    $("split-plate").alt = "The plate, left of the line";
    $("split-cg").src = shot.compare.cg;
    $("split-cg").alt = "CG, right of the line";
    numbers($("differs"), shot.compare.differs);
    for (const words of shot.compare.moves) $("moves").append(make("li", words));
    $("compare-verdict").textContent = shot.compare.verdict;
    for (const words of shot.compare.places) $("places").append(make("li", words));
    const split = $("split");
    const at = $("split-at");
    const part = (share) => {
      at.value = share;
      split.style.setProperty("--at", share + "%");
    };
    const drag = (event) => {
      const box = split.getBoundingClientRect();
      part(Math.min(100, Math.max(0, (100 * (event.clientX - box.left)) / box.width)));
    };
    split.addEventListener("pointerdown", (event) => {
      split.setPointerCapture(event.pointerId);
      drag(event);
    });
    split.addEventListener("pointermove", (event) => {
      if (split.hasPointerCapture(event.pointerId)) drag(event);
    });
    at.addEventListener("input", () => part(+at.value));
    part(50);
  }

  const table = (into, subjects) => {
    into.textContent = "";
    const head = make("tr");
    ["subject", "along the axis", "front", "middle", "back", ""].forEach((name, i) => {
      const th = make("th", name, i > 0 && i < 5 ? "number" : "");
      th.scope = "col";
      head.append(th);
    });
    into.append(head);
    const px = (v) => (v === null ? "" : (v > 0 ? "+" : "") + v.toFixed(1) + " px");
    for (const s of subjects) {
      const row = make("tr", undefined, s.sharp ? "sharp" : s.middle < 0 ? "front" : "behind");
      row.append(make("td", s.name), make("td", metres(s.axial_m), "number"),
                 make("td", px(s.front), "number"), make("td", px(s.middle), "number"),
                 make("td", px(s.back), "number"), make("td", s.said, "blur"));
      row.style.setProperty("--strength", s.strength);
      into.append(row);
    }
  };
  table($("sharp"), shot.subjects);
  $("sharp-words").textContent = shot.sharp_words;
  $("plan-above").src = shot.plan_above;
  $("plan-above").alt = "The set from above: " + shot.sharp_words;
  $("plan-side").src = shot.plan_side;
  $("plan-side").alt = "The set from the side";
  for (const p of shot.pictures) {
    const figure = make("figure");
    const img = make("img");
    img.src = p.data;
    img.alt = p.label;
    img.loading = "lazy";
    figure.append(img, make("figcaption", p.label));
    $("pictures").append(figure);
  }
  for (const note of shot.notes) $("notes").append(make("li", note));

  // ---- steps of one value -----------------------------------------------------------------------
  if (shot.steps.length > 0) {
    const slider = $("step");
    slider.max = shot.steps.length - 1;
    slider.value = shot.step_now;
    $("step-label").textContent = shot.step_key;
    const slide = () => {
      const s = shot.steps[+slider.value];
      $("step-value").textContent = s.value;
      slider.setAttribute("aria-valuetext", s.value);
      $("step-picture").src = s.data;
      $("step-picture").alt = "The picture with " + shot.step_key + " = " + s.value;
      $("step-words").textContent = s.words;
    };
    slider.addEventListener("input", slide);
    slide();
  }

  // ---- pointing into the plate ------------------------------------------------------------------
  if (!shot.plate) return;
  const wide = shot.pixels[0];
  const high = shot.pixels[1];
  const plate = $("plate");
  const svg = $("marks");
  $("plate-picture").src = shot.plate.data;
  $("plate-picture").alt = "The plate, " + shot.plate.label;
  svg.setAttribute("viewBox", `0 0 ${wide} ${high}`);
  svg.setAttribute("preserveAspectRatio", "none");

  // Where CG puts what the plate shows here: see distortion.hpp.
  const undistorted = ([px, py]) => {
    const d = shot.distortion;
    if (!d) return [px, py];
    const x = (px - d.axis[0]) / d.radius[0];
    const y = (d.axis[1] - py) / d.radius[1];
    const r2 = x * x + y * y;
    const series = (k) => 1 + r2 * (k[0] + r2 * (k[1] + r2 * k[2]));
    const u = x * series(d.wide) + d.p[0] * (r2 + 2 * x * x) + 2 * d.p[1] * x * y;
    const v = y * series(d.k) + d.p[1] * (r2 + 2 * y * y) + 2 * d.p[0] * x * y;
    return [d.axis[0] + u * d.radius[0], d.axis[1] - v * d.radius[1]];
  };

  const bytes = (text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
  const survey = shot.survey && {
    ...shot.survey, codes: bytes(shot.survey.depth), things: bytes(shot.survey.thing)
  };
  // Depth (metres; Infinity: nothing there) and subject of a place of the plate; null: not known.
  const seen = (place) => {
    if (!survey) return null;
    const [x, y] = undistorted(place);
    const i = Math.floor((x / wide) * survey.width);
    const j = Math.floor((y / high) * survey.height);
    if (i < 0 || j < 0 || i >= survey.width || j >= survey.height) return null;
    const at = j * survey.width + i;
    const code = survey.codes[2 * at] * 256 + survey.codes[2 * at + 1];
    const z = code === 0 ? Infinity : survey.near * Math.pow(survey.far / survey.near, (code - 1) / 65534);
    const thing = survey.things[at];
    return { z, name: thing === 0 ? "" : survey.names[thing - 1] };
  };
  const light = shot.stops && { ...shot.stops, codes: bytes(shot.stops.codes) };
  // How bright the plate is at a place, in words.
  const brightness = ([x, y]) => {
    if (!light) return "";
    const i = Math.min(light.width - 1, Math.floor((x / wide) * light.width));
    const j = Math.min(light.height - 1, Math.floor((y / high) * light.height));
    const code = light.codes[j * light.width + i];
    if (code === 255) return " · no number";
    if (code === 0) return " · black";
    const stops = (code - 128) / 10;
    const clipped = stops > light.clips_at - 0.06 ? " (clipped)" : "";
    return ` · ${stops > 0 ? "+" : ""}${stops.toFixed(1)} stops from mid-grey${clipped}`;
  };
  const blur = (z) => shot.blur_px_dioptres * (shot.focus_dioptres - 1 / z);

  const tools = [["look", "nothing"], ["focus", "focus"], ["line", "edge"], ["circle", "round thing"],
                 ["lamp", "lamp"], ["grey", "grey card"], ["box", "box"]];
  const wanted = { focus: 1, line: 2, circle: 3, lamp: 2, grey: 2, box: 2 };
  let tool = "look";
  let cross = [wide / 2, high / 2];
  let open = [];
  const marks = shot.marks.map((m) => ({ ...m, known: true }));
  let focus = null;

  for (const [name, words] of tools) {
    const label = make("label");
    const input = make("input");
    input.type = "radio";
    input.name = "tool";
    input.value = name;
    input.checked = name === tool;
    input.addEventListener("change", () => {
      tool = name;
      open = [];
      draw();
    });
    label.append(input, make("span", words));
    document.querySelector(".tools").append(label);
  }
  const ways = [["subject", "its name"], ["distance", "its distance"]];
  if (shot.has_depth_file) ways.push(["pixel", "the pixel, in the depth picture"]);
  for (const [value, words] of ways) {
    const option = make("option", words);
    option.value = value;
    $("focus-by").append(option);
  }

  const number = (v) => (Math.round(v * 10) / 10).toString();
  const pair = (p) => `[${number(p[0])}, ${number(p[1])}]`;
  const quoted = (text) => '"' + text.replace(/\\/g, "\\\\").replace(/"/g, '\\"') + '"';
  const boxed = (p) => {
    const x = Math.min(p[0][0], p[1][0]);
    const y = Math.min(p[0][1], p[1][1]);
    return [x, y, Math.abs(p[0][0] - p[1][0]), Math.abs(p[0][1] - p[1][1])];
  };
  const apart = (a, b) => Math.hypot(a[0] - b[0], a[1] - b[1]);

  const focusToml = () => {
    const by = $("focus-by").value;
    const s = focus.seen;
    let said;
    if (by === "pixel") {
      const p = undistorted(focus.at);
      said = `pixel = ${pair(p)}`;
    } else if (s === null) {
      return `# ${pair(focus.at)}: how far away that is, is not known; give the shot a scene or a depth picture\n`;
    } else if (by === "subject" && s.name) {
      said = `on = ${quoted(s.name)}`;
    } else {
      said = isFinite(s.z) ? `at = "${s.z.toPrecision(5)} m"` : 'at = "infinity"';
    }
    if (shot.pull_frame !== null) {
      return `# takes the place of the pull's key at this frame, or goes between its neighbours\n` +
             `[[pull]]\nframe = ${shot.pull_frame}\n${said}\n`;
    }
    return `# takes the place of the [focus] that is there\n[focus]\n${said}\n`;
  };
  const markToml = (m) => {
    if (m.kind === "line") {
      const runs = m.runs === "anyhow" ? "" : `runs   = "${m.runs}"\n`;
      return `[[plate.line]]\n${runs}points = [${m.points.map(pair).join(", ")}]\n`;
    }
    if (m.kind === "circle") return `[[plate.circle]]\npoints = [${m.points.map(pair).join(", ")}]\n`;
    if (m.kind === "lamp") {
      const diameter = 2 * apart(m.points[0], m.points[1]);
      return `[[plate.lamp]]\nat = ${pair(m.points[0])}\n` +
             (diameter >= 0.1 ? `diameter = ${number(diameter)}\n` : "");
    }
    return `[[plate.${m.kind}]]\nbox = [${boxed(m.points).map(number).join(", ")}]\n`;
  };
  const toml = () => {
    const parts = [];
    if (focus) parts.push(focusToml());
    for (const m of marks) if (!m.known) parts.push(markToml(m));
    return parts.length === 0 ? "" : `# for ${shot.file}\n` + parts.join("\n");
  };

  const words = (m) => {
    const names = { line: "edge", circle: "round thing", lamp: "lamp", grey: "grey card", box: "box" };
    const runs = m.kind === "line" && m.runs !== "anyhow" ? `, ${m.runs}` : "";
    const many = m.kind === "line" || m.kind === "circle" ? `, ${m.points.length} points` : "";
    return (m.name || names[m.kind]) + runs + many;
  };

  // ---- drawing ----------------------------------------------------------------------------------
  const shape = (tag, attributes) => {
    const e = document.createElementNS("http://www.w3.org/2000/svg", tag);
    for (const [name, value] of Object.entries(attributes)) e.setAttribute(name, value);
    e.setAttribute("vector-effect", "non-scaling-stroke");
    svg.append(e);
  };
  const stroke = (points, style, closed) => {
    for (const [colour, width] of [["#000", 3.5], [style.colour, 1.6]]) {
      shape(closed ? "polygon" : "polyline", {
        points: points.map((p) => p.join(",")).join(" "), fill: "none", stroke: colour,
        "stroke-opacity": colour === "#000" ? 0.45 : 1, "stroke-width": width,
        "stroke-dasharray": style.dashed ? "5 4" : ""
      });
    }
  };
  const spots = (points, colour) => {
    const r = Math.max(2, (wide / Math.max(1, plate.clientWidth)) * 3.2);
    for (const p of points) {
      shape("circle", { cx: p[0], cy: p[1], r, fill: colour, stroke: "#000", "stroke-width": 1 });
    }
  };
  // The circle through three points, or the nearest to more (Kåsa 1976).
  const circleOf = (points) => {
    let [sx, sy] = [0, 0];
    for (const p of points) { sx += p[0] / points.length; sy += p[1] / points.length; }
    let [xx, xy, yy, xz, yz, zz] = [0, 0, 0, 0, 0, 0];
    for (const p of points) {
      const [x, y] = [p[0] - sx, p[1] - sy];
      const z = x * x + y * y;
      xx += x * x; xy += x * y; yy += y * y; xz += x * z; yz += y * z; zz += z;
    }
    const d = xx * yy - xy * xy;
    if (Math.abs(d) < 1e-9) return null;
    const a = (xz * yy - yz * xy) / (2 * d);
    const b = (yz * xx - xz * xy) / (2 * d);
    return [sx + a, sy + b, Math.sqrt(zz / points.length + a * a + b * b)];
  };
  const drawMark = (m, style) => {
    if (m.kind === "line") stroke(m.points, style, false);
    if (m.kind === "circle" && m.points.length >= 3) {
      const c = circleOf(m.points);
      if (c) {
        shape("circle", { cx: c[0], cy: c[1], r: c[2], fill: "none", stroke: style.colour,
                          "stroke-width": 1.6, "stroke-dasharray": style.dashed ? "5 4" : "" });
      }
    }
    if (m.kind === "lamp" && m.points.length === 2) {
      shape("circle", { cx: m.points[0][0], cy: m.points[0][1], r: apart(...m.points), fill: "none",
                        stroke: style.colour, "stroke-width": 1.6 });
    }
    if ((m.kind === "grey" || m.kind === "box") && m.points.length === 2) {
      const [x, y, w, h] = boxed(m.points);
      stroke([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], style, true);
    }
    spots(m.kind === "lamp" ? m.points.slice(0, 1) : m.points, style.colour);
  };
  function draw() {
    svg.textContent = "";
    for (const m of marks) drawMark(m, m.known ? { colour: "#9fd8ff", dashed: true } : { colour: "#ffd23f" });
    if (focus) {
      const r = wide / 60;
      stroke([[focus.at[0] - r, focus.at[1]], [focus.at[0] + r, focus.at[1]]], { colour: "#5dff9d" });
      stroke([[focus.at[0], focus.at[1] - r], [focus.at[0], focus.at[1] + r]], { colour: "#5dff9d" });
      shape("circle", { cx: focus.at[0], cy: focus.at[1], r: 0.7 * r, fill: "none", stroke: "#5dff9d",
                        "stroke-width": 2 });
    }
    if (open.length > 0) drawMark({ kind: tool, points: open, runs: "anyhow" }, { colour: "#ff8f3f" });
    const arm = wide / 45;
    for (const [a, b] of [[[-arm, 0], [-arm / 4, 0]], [[arm / 4, 0], [arm, 0]],
                          [[0, -arm], [0, -arm / 4]], [[0, arm / 4], [0, arm]]]) {
      stroke([[cross[0] + a[0], cross[1] + a[1]], [cross[0] + b[0], cross[1] + b[1]]],
             { colour: "#fff" });
    }
    const s = seen(cross);
    let said = `pixel ${number(cross[0])}, ${number(cross[1])}`;
    if (s === null) said += " · its distance is not known";
    else if (!isFinite(s.z)) said += " · nothing there: infinity";
    else said += ` · ${metres(s.z)} along the view axis`;
    if (s !== null && s.name) said += ` · ${s.name}`;
    if (s !== null) {
      const b = blur(s.z);
      said += Math.abs(b) <= shot.limit_px ? " · sharp" : ` · ${Math.abs(b).toFixed(1)} px blurred, ${b > 0 ? "behind" : "in front of"} the focus`;
    }
    $("readout").textContent = said + brightness(cross);
    $("end-edge").disabled = !((tool === "line" || tool === "circle") && open.length >= wanted[tool]);
    $("undo").disabled = open.length === 0;
    $("runs-label").hidden = tool !== "line";
    $("focus-label").hidden = tool !== "focus" && !focus;
    const list = $("mark-list");
    list.textContent = "";
    if (focus) {
      const item = make("li", "focus at " + pair(focus.at));
      const drop = make("button", "Remove");
      drop.type = "button";
      drop.setAttribute("aria-label", "Remove the focus");
      drop.addEventListener("click", () => { focus = null; draw(); });
      item.append(drop);
      list.append(item);
    }
    marks.forEach((m, i) => {
      const item = make("li", words(m), m.known ? "known" : "");
      if (m.known) {
        item.append(make("span", "in the shot file"));
      } else {
        const drop = make("button", "Remove");
        drop.type = "button";
        drop.setAttribute("aria-label", "Remove " + words(m));
        drop.addEventListener("click", () => { marks.splice(i, 1); draw(); });
        item.append(drop);
      }
      list.append(item);
    });
    if (list.children.length === 0) list.append(make("li", "none yet", "known"));
    const text = toml();
    $("toml").value = text;
    $("copy").disabled = text === "";
    $("toml-hint").hidden = text !== "";
    $("download").hidden = text === "";
    $("download").href = "data:text/plain;charset=utf-8," + encodeURIComponent(text);
  }

  // ---- doing ------------------------------------------------------------------------------------
  const within = (p) => [Math.min(wide, Math.max(0, p[0])), Math.min(high, Math.max(0, p[1]))];
  const finish = () => {
    marks.push({ kind: tool, points: open, runs: $("runs").value });
    open = [];
  };
  const set = () => {
    const at = within(cross).map((v) => Math.round(v * 10) / 10);
    if (tool === "focus") {
      focus = { at, seen: seen(at) };
    } else if (tool !== "look") {
      // The same place twice is a slip of the hand, but for a lamp that is only a point.
      if (tool !== "lamp" && open.some((p) => apart(p, at) < 0.5)) return draw();
      open.push(at);
      const many = tool === "line" || tool === "circle";
      if (!many && open.length === wanted[tool]) {
        const flat = (tool === "grey" || tool === "box") && boxed(open).slice(2).some((v) => v < 0.5);
        if (flat) open.pop();
        else finish();
      }
    }
    draw();
  };
  const endEdge = () => {
    if ((tool === "line" || tool === "circle") && open.length >= wanted[tool]) finish();
    draw();
  };
  const undo = () => { open.pop(); draw(); };
  const placeOf = (event) => {
    const box = svg.getBoundingClientRect();
    return within([((event.clientX - box.left) / box.width) * wide,
                   ((event.clientY - box.top) / box.height) * high]);
  };
  plate.addEventListener("pointermove", (event) => {
    if (event.pointerType === "touch") return;
    cross = placeOf(event);
    draw();
  });
  plate.addEventListener("click", (event) => {
    cross = placeOf(event);
    set();
  });
  plate.addEventListener("keydown", (event) => {
    const step = event.shiftKey ? 10 : 1;
    const moves = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    if (moves[event.key]) {
      cross = within([cross[0] + step * moves[event.key][0], cross[1] + step * moves[event.key][1]]);
      draw();
    } else if (event.key === "Enter" || event.key === " ") set();
    else if (event.key === "e" || event.key === "E") endEdge();
    else if (event.key === "Backspace") undo();
    else if (event.key === "Escape") { open = []; draw(); }
    else return;
    event.preventDefault();
  });
  $("end-edge").addEventListener("click", endEdge);
  $("undo").addEventListener("click", undo);
  $("focus-by").addEventListener("change", draw);
  $("zoom").addEventListener("change", () => {
    plate.style.width = 100 * +$("zoom").value + "%";
    const frame = plate.parentElement;
    frame.scrollLeft = (cross[0] / wide) * plate.clientWidth - frame.clientWidth / 2;
    frame.scrollTop = (cross[1] / high) * plate.clientHeight - frame.clientHeight / 2;
    draw();
  });
  $("copy").addEventListener("click", async () => {
    const area = $("toml");
    try {
      await navigator.clipboard.writeText(area.value);
    } catch (e) {
      area.select();
      document.execCommand("copy");
    }
    $("copied").textContent = "copied";
    setTimeout(() => { $("copied").textContent = ""; }, 2000);
  });
  window.addEventListener("resize", draw);
  $("plate-picture").addEventListener("load", draw);
  draw();
})();
