// Questions to the tool, and what comes back.
import { take } from "./live.js";

export const post = async (what, words = {}) => {
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
export const pixels = async (path) => {
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
export const paint = (canvas, p) => {
  if (canvas.width !== p.width || canvas.height !== p.height) {
    canvas.width = p.width;
    canvas.height = p.height;
  }
  canvas.getContext("2d").putImageData(p.image, 0, 0);
};
