// Paths and places on the picture.
import assert from "node:assert/strict";
import test from "node:test";

import {
  arrow,
  boxPath,
  circlePath,
  loupeView,
  stemPath,
  strokePath,
  within,
} from "../../heath/web/static/web/bench/geometry.js";

const numbers = (text) => text.match(/-?[\d.]+/g).map(Number);

test("arrows go their ways and other keys nowhere", () => {
  assert.deepEqual(arrow("ArrowLeft"), [-1, 0]);
  assert.deepEqual(arrow("ArrowDown"), [0, 1]);
  assert.equal(arrow("a"), null);
});

test("a place is held inside the picture", () => {
  const box = { width: 300, height: 400 };
  assert.deepEqual(within({ x: -5, y: 500 }, box), { x: 0, y: 400 });
  assert.deepEqual(within({ x: 12, y: 34 }, box), { x: 12, y: 34 });
});

test("a circle begins at its left and comes back to it", () => {
  // SVG 2, section 9.3.8: two arcs of half a turn.
  assert.equal(circlePath({ x: 10, y: 20 }, 5), "M5 20a5 5 0 1 0 10 0a5 5 0 1 0 -10 0");
});

test("a box has its corners at the two ends of the drag", () => {
  assert.equal(boxPath({ x: 1, y: 2 }, { x: 3, y: 4 }), "M1 2H3V4H1Z");
});

test("a single point of the brush is drawn as a dot", () => {
  assert.equal(strokePath([{ x: 1, y: 2 }]), "M1.0 2.0h.1");
  assert.equal(
    strokePath([
      { x: 1, y: 2 },
      { x: 3, y: 4 },
    ]),
    "M1.0 2.0L3.0 4.0",
  );
});

test("a stem goes through its bend half way", () => {
  const [fx, fy, cx, cy, tx, ty] = numbers(stemPath({ foot: [0, 0], tip: [10, 20], bend: [9, 8] }));
  // A quadratic Bezier curve at t = 1/2: a quarter of each end and half of the control point.
  assert.deepEqual([(fx + 2 * cx + tx) / 4, (fy + 2 * cy + ty) / 4], [9, 8]);
});

test("a stem without a bend is straight", () => {
  const [, , cx, cy] = numbers(stemPath({ foot: [0, 0], tip: [10, 20] }));
  assert.deepEqual([cx, cy], [5, 10]);
});

test("the loupe shows the place in its middle and stands on the free side", () => {
  const box = { width: 900, height: 1200 };
  const stand = { width: 450, height: 600 };
  const left = loupeView({ x: 100, y: 600 }, box, stand, 1);
  const [x, y, wide, high] = numbers(left.viewBox);
  assert.deepEqual([x + wide / 2, y + high / 2], [100, 600]);
  assert.ok(left.left > 50, "right of a place on the left");
  const right = loupeView({ x: 800, y: 600 }, box, stand, 1);
  assert.ok(right.left + 180 < 400, "left of a place on the right");
});

test("the loupe stays inside the picture and keeps its size on screen when zoomed", () => {
  const box = { width: 900, height: 1200 };
  assert.equal(loupeView({ x: 100, y: 0 }, box, { width: 450, height: 600 }, 1).top, 0);
  assert.equal(loupeView({ x: 100, y: 1200 }, box, { width: 450, height: 600 }, 1).top, 420);
  const zoomed = loupeView({ x: 100, y: 1200 }, box, { width: 900, height: 1200 }, 2);
  assert.equal(zoomed.top, 510);
});
