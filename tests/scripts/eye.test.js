import assert from "node:assert/strict";
import test from "node:test";
import { held, inPercent, pressed } from "../../heath/web/static/web/eye.js";

test("shares of sliders add up to a hundred, and none are none", () => {
  assert.deepEqual(inPercent([3, 1]), [75, 25]);
  assert.deepEqual(inPercent([0, 0]), [0, 0]);
});

test("a piece pressed is next; pressed again it and those after it are out", () => {
  assert.deepEqual(pressed([], 2), [2]);
  assert.deepEqual(pressed([2], 0), [2, 0]);
  assert.deepEqual(pressed([2, 0, 1], 0), [2]);
});

test("a handle stays in the picture", () => {
  assert.equal(held(-3, 0, 10), 0);
  assert.equal(held(12, 0, 10), 10);
  assert.equal(held(4, 0, 10), 4);
});
