// A round of eye practice: what is dragged or chosen is sent, and the truth is drawn over it.
import { arrow } from "./bench/geometry.js";

const STEP = 0.01; // of the picture's height that an arrow key moves, with shift five times

const page = globalThis.document;
const eye = page?.getElementById("eye");
const hand = page?.getElementById("eye-hand");
const fault = () => document.getElementById("eye-fault");
const kept = () => "eye:" + eye.dataset.exercise;

// A figure held between two others.
export const held = (v, least, most) => Math.min(Math.max(v, least), most);

// Shares of sliders in per cent that add up to a hundred.
export function inPercent(values) {
  const total = values.reduce((a, b) => a + b, 0);
  if (!total) return values.map(() => 0);
  return values.map((v) => Math.round((100 * v) / total));
}

// Pressing a piece puts it next; pressing it again takes it and those after it out.
export function pressed(order, piece) {
  const at = order.indexOf(piece);
  return at < 0 ? [...order, piece] : order.slice(0, at);
}

function handles() {
  return [...eye.querySelectorAll(".eye-handle")];
}

function place(handle, x, y) {
  const box = handle.ownerSVGElement.viewBox.baseVal;
  handle.dataset.x = held(x, box.x, box.x + box.width).toFixed(1);
  handle.dataset.y = held(y, box.y, box.y + box.height).toFixed(1);
  const moves = handle.dataset.moves;
  const along = moves === "y" ? box.x + box.width / 2 : handle.dataset.x;
  const up = moves === "x" ? box.y + box.height / 2 : handle.dataset.y;
  handle.setAttribute("transform", `translate(${along} ${up})`);
  const share =
    moves === "x"
      ? (handle.dataset.x - box.x) / box.width
      : 1 - (handle.dataset.y - box.y) / box.height;
  handle.setAttribute("aria-valuenow", Math.round(100 * share));
  handle.setAttribute("aria-valuetext", `${Math.round(100 * share)} per cent of the picture`);
  cut();
}

function cut() {
  const [from, to] = ["from", "to"].map((part) => eye.querySelector(`[data-part=${part}]`));
  if (!from || !to) return;
  const way = `M${from.dataset.x} ${from.dataset.y}L${to.dataset.x} ${to.dataset.y}`;
  eye.querySelectorAll(".eye-cut").forEach((path) => path.setAttribute("d", way));
}

const spot = (handle) => [Number(handle.dataset.x), Number(handle.dataset.y)];

// What is answered so far, as the server takes it.
function answered() {
  const kind = eye.dataset.way;
  if (kind === "share") return { left: Number(hand.querySelector("[name=left]").value) };
  if (kind === "shares")
    return { shares: [...hand.querySelectorAll("[name=share]")].map((i) => Number(i.value)) };
  if (kind === "order") return { order };
  return Object.fromEntries(handles().map((h) => [h.dataset.part, spot(h)]));
}

let order = [];

function showOrder() {
  hand.querySelectorAll("[data-order]").forEach((button) => {
    const at = order.indexOf(Number(button.dataset.order));
    button.setAttribute("aria-pressed", String(at >= 0));
    button.querySelector(".eye-place").textContent = at < 0 ? "" : `· ${at + 1}`;
  });
}

function showShares() {
  const left = hand.querySelector("[name=left]");
  if (left) {
    hand.querySelector("[data-of=left]").textContent = left.value;
    hand.querySelector("[data-of=right]").textContent = 100 - left.value;
  }
  const sliders = [...hand.querySelectorAll("[name=share]")];
  inPercent(sliders.map((i) => Number(i.value))).forEach((percent, n) => {
    sliders[n].parentElement.querySelector("output").textContent = percent;
  });
}

function keep() {
  sessionStorage.setItem(kept(), JSON.stringify(answered()));
}

function restore() {
  const was = JSON.parse(sessionStorage.getItem(kept()) || "null");
  if (!was) return;
  handles().forEach((h) => was[h.dataset.part] && place(h, ...was[h.dataset.part]));
  if (was.left !== undefined) hand.querySelector("[name=left]").value = was.left;
  hand.querySelectorAll("[name=share]").forEach((i, n) => (i.value = was.shares?.[n] ?? i.value));
  order = was.order || [];
}

let busy = false;

async function send(answer) {
  if (busy) return;
  busy = true;
  let reply;
  try {
    reply = await fetch(eye.dataset.to, {
      method: "POST",
      body: new URLSearchParams({ answer: JSON.stringify(answer) }),
      headers: JSON.parse(document.body.getAttribute("hx-headers")),
    });
  } catch {
    tell("The site cannot be reached. Your answer stands here: send it again in a moment.");
    busy = false;
    return;
  }
  const text = await reply.text();
  busy = false;
  if (!reply.ok) {
    const plain = reply.headers.get("Content-Type")?.includes("html") && text.length < 200;
    tell(plain ? text : "That could not be kept. Load the page again.");
    return;
  }
  sessionStorage.removeItem(kept());
  show(new DOMParser().parseFromString(text, "text/html"));
}

function tell(words) {
  fault().textContent = words;
  fault().hidden = false;
}

function show(answer) {
  answer.querySelectorAll(".eye-truth").forEach((truth) => {
    eye.querySelector(`.eye-truth[data-n="${truth.dataset.n}"]`).replaceWith(truth);
  });
  eye.querySelectorAll(".eye-handle, .eye-cut").forEach((e) => e.remove());
  const said = answer.getElementById("eye-said");
  hand.replaceChildren(said);
  window.htmx.process(said);
  eye.dataset.answered = "yes";
  eye.querySelector("progress").value += 1;
  said.querySelector("[data-on]").focus({ preventScroll: true });
}

function grab(event) {
  if (eye.dataset.answered === "yes" || event.button > 0) return;
  const svg = event.target.closest(".eye-stage svg");
  const all = handles();
  if (!svg || !all.length) return;
  event.preventDefault();
  const at = (e) =>
    new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM().inverse());
  const first = at(event);
  let handle = event.target.closest(".eye-handle") || all[0];
  // A cut is drawn in one go: from where it is pressed to where it is let go.
  if (all.length === 2 && !event.target.closest(".eye-handle")) {
    place(all[0], first.x, first.y);
    handle = all[1];
  }
  // A handle is carried from where it was taken; a press beside it brings it there.
  const taken = event.target.closest(".eye-handle");
  const off = taken
    ? { x: handle.dataset.x - first.x, y: handle.dataset.y - first.y }
    : { x: 0, y: 0 };
  const move = (e) => {
    const p = at(e);
    place(handle, p.x + off.x, p.y + off.y);
  };
  if (!taken) move(event);
  handle.focus({ preventScroll: true });
  svg.setPointerCapture(event.pointerId);
  const drop = () => {
    svg.removeEventListener("pointermove", move);
    svg.removeEventListener("pointerup", drop);
    svg.removeEventListener("pointercancel", drop);
    keep();
  };
  svg.addEventListener("pointermove", move);
  svg.addEventListener("pointerup", drop);
  svg.addEventListener("pointercancel", drop);
}

// Arrow keys move the handle that has the focus, else the first one.
function nudge(event) {
  const way = arrow(event.key);
  if (!way || event.target.closest("input")) return false;
  const handle = event.target.closest(".eye-handle") || handles()[0];
  if (!handle) return false;
  event.preventDefault();
  const step = STEP * handle.ownerSVGElement.viewBox.baseVal.height * (event.shiftKey ? 5 : 1);
  place(handle, Number(handle.dataset.x) + way[0] * step, Number(handle.dataset.y) + way[1] * step);
  keep();
  return true;
}

const focused = (event) => event.target.closest("a, button, summary");

function goOn(event) {
  if (event.key === "Enter" && !focused(event)) hand.querySelector("[data-on]")?.click();
}

function enter(event) {
  const button = hand.querySelector("[data-answer]");
  if (focused(event) || !button) return;
  event.preventDefault();
  button.click();
}

function press(event) {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (eye.dataset.answered === "yes") {
    goOn(event);
    return;
  }
  if (nudge(event)) return;
  if (event.key === "Enter") enter(event);
  else if (event.key.toLowerCase() === "n") hand.querySelector("[data-none]")?.click();
  else if (Number(event.key) > 0 && !event.target.closest("input"))
    [...hand.querySelectorAll("[data-choice], [data-order]")][Number(event.key) - 1]?.click();
}

function click(event) {
  const button = event.target.closest("button");
  if (!button) return;
  if ("none" in button.dataset) send({ none: true });
  else if ("answer" in button.dataset) send(answered());
  else if (button.dataset.choice !== undefined) send({ choice: button.dataset.choice });
  else if (button.dataset.order !== undefined) {
    order = pressed(order, Number(button.dataset.order));
    showOrder();
    keep();
  }
}

// A picture of several can be pressed itself.
function choose(event) {
  const stage = event.target.closest(".several .eye-stage");
  if (!stage || eye.dataset.answered === "yes") return;
  const at = [...eye.querySelectorAll(".eye-stage")].indexOf(stage);
  [...hand.querySelectorAll("[data-choice], [data-order]")][at]?.click();
}

// Marks of known pieces are written beside their sliders.
function outputs(root) {
  root.querySelectorAll(".eye-mark").forEach((row) => {
    row.querySelector("output").textContent = Number(row.querySelector("input").value).toFixed(1);
  });
}

if (eye) {
  if (eye.dataset.answered === "no") {
    handles().forEach((h) => place(h, Number(h.dataset.x), Number(h.dataset.y)));
    restore();
    showOrder();
    showShares();
  }
  eye.addEventListener("pointerdown", grab);
  eye.addEventListener("click", choose);
  hand.addEventListener("click", click);
  hand.addEventListener("input", () => {
    showShares();
    keep();
  });
  document.addEventListener("keydown", press);
}
const marking = page?.querySelector(".calibrating");
if (marking) {
  outputs(marking);
  marking.addEventListener("input", () => outputs(marking));
  marking.addEventListener("change", () => outputs(marking));
}
