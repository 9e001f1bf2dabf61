"use strict";
const data = JSON.parse(document.getElementById("data").textContent);
const byId = (id) => document.getElementById(id);
const long = new Set(["remarks", "finish"]);
let sortKey = null;
let down = false;

const element = (name, text, className) => {
  const made = document.createElement(name);
  if (text !== undefined) made.textContent = text;
  if (className) made.className = className;
  return made;
};

const isNumber = (key) => data.shots.some((s) => typeof s.values[key] === "number");
const words = (value) => {
  if (value === null || value === undefined) return "";
  return typeof value === "number" ? String(Math.round(value * 1000) / 1000) : value;
};
const rowWords = (shot) => [shot.name, shot.file, shot.problem || "", ...Object.values(shot.values).map(words)].join(" ").toLowerCase();

const shownColumns = () => {
  if (!byId("only-differing").checked) return data.columns;
  return data.columns.filter((c) => data.shots.some((s) => s.differs.includes(c.key)));
};

const leading = (value) => {
  if (typeof value === "number") return value;
  const found = /-?[0-9]*\.?[0-9]+/.exec(value || "");
  return found ? Number(found[0]) : null;
};

const sorted = (shots) => {
  if (sortKey === null) return shots;
  const of = (s) => (sortKey === "shot" ? s.name : s.values[sortKey]);
  const compare = (a, b) => {
    const x = of(a), y = of(b);
    if (x === null || x === undefined) return y === null || y === undefined ? 0 : 1;
    if (y === null || y === undefined) return -1;
    const n = sortKey === "shot" ? null : leading(x), m = sortKey === "shot" ? null : leading(y);
    const order = n !== null && m !== null && n !== m ? n - m : String(x).localeCompare(String(y));
    return down ? -order : order;
  };
  return [...shots].sort(compare);
};

const draw = () => {
  const columns = shownColumns();
  const heads = byId("heads");
  heads.replaceChildren();
  const head = (key, text, number) => {
    const th = element("th", undefined, number ? "number" : "");
    th.scope = "col";
    const button = element("button", text);
    button.type = "button";
    button.dataset.key = key;
    if (sortKey === key) button.setAttribute("aria-sort", down ? "descending" : "ascending");
    button.addEventListener("click", () => {
      down = sortKey === key ? !down : false;
      sortKey = key;
      draw();
      document.querySelector(`thead button[data-key="${key}"]`).focus();
    });
    th.append(button);
    heads.append(th);
  };
  head("shot", "shot", false);
  if (data.pictures.some((p) => p)) heads.append(element("th", ""));
  for (const c of columns) head(c.key, c.head, isNumber(c.key));
  const wanted = byId("search").value.trim().toLowerCase().split(/\s+/).filter((w) => w);
  const shots = sorted(data.shots.filter((s) => wanted.every((w) => rowWords(s).includes(w))));
  const rows = byId("rows");
  rows.replaceChildren();
  for (const shot of shots) {
    const tr = element("tr", undefined, shot.name === data.master ? "master" : "");
    const th = element("th", shot.name);
    th.scope = "row";
    th.title = shot.file;
    tr.append(th);
    if (data.pictures.some((p) => p)) {
      const td = element("td");
      const picture = data.pictures[data.shots.indexOf(shot)];
      if (picture) {
        const img = element("img");
        img.src = picture;
        img.alt = `plate of ${shot.name}`;
        td.append(img);
      }
      tr.append(td);
    }
    if (shot.problem) {
      const td = element("td", shot.problem, "problem");
      td.colSpan = Math.max(1, columns.length);
      tr.append(td);
    } else {
      for (const c of columns) {
        const td = element("td", words(shot.values[c.key]));
        if (isNumber(c.key)) td.classList.add("number");
        if (long.has(c.key)) td.classList.add("long");
        if (shot.sources[c.key] === "guessed") td.classList.add("guessed");
        if (shot.differs.includes(c.key) && shot.name !== data.master) td.classList.add("differs");
        tr.append(td);
      }
    }
    rows.append(tr);
  }
  byId("count").textContent = shots.length === data.shots.length ? "" : `${shots.length} of ${data.shots.length}`;
};

byId("title").textContent = data.title;
byId("legend").textContent = `Brown: differs from ${data.master}. Italic: guessed. Click a head to sort.`;
byId("search").addEventListener("input", draw);
byId("only-differing").addEventListener("change", draw);
draw();
