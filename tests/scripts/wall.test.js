// Walking the wall by keys, and how a photograph lies on the bench.
import assert from "node:assert/strict";
import test from "node:test";

import { fitted, framedOn, held, whole } from "../../heath/web/static/web/bench/framing.js";
import { walked } from "../../heath/web/static/web/wall.js";

test("arrows walk from piece to piece and stop at the ends", () => {
  assert.equal(walked("ArrowRight", 2, 5), 3);
  assert.equal(walked("ArrowRight", 4, 5), 4);
  assert.equal(walked("ArrowLeft", 0, 5), 0);
  assert.equal(walked("ArrowRight", -1, 5), 0);
  assert.equal(walked("End", 1, 5), 4);
  assert.equal(walked("Home", 3, 5), 0);
  assert.equal(walked("a", 1, 5), null);
  assert.equal(walked("ArrowLeft", 0, 0), null);
});

const PHOTO = { width: 900, height: 1200 };
const VIEW = { width: 800, height: 600 };

test("the whole photograph fits the view and stands in its middle", () => {
  const size = fitted(PHOTO, VIEW);
  assert.deepEqual(size, { width: 450, height: 600 });
  assert.deepEqual(whole(size, VIEW), { zoom: 1, x: 175, y: 0 });
});

test("a frame fills the view: its middle lies in the view's middle", () => {
  const size = fitted(PHOTO, VIEW);
  const frame = [300, 400, 300, 400];
  const { zoom, x, y } = framedOn(frame, PHOTO, size, VIEW);
  assert.equal(zoom, 3);
  // the frame's middle (450, 600) of the photograph, half a screen pixel to each of its own
  assert.equal(x + 450 * 0.5 * zoom, 400);
  assert.equal(y + 600 * 0.5 * zoom, 300);
});

test("a frame at the photograph's edge shows nothing beyond it", () => {
  const size = fitted(PHOTO, VIEW);
  const { zoom, x, y } = framedOn([0, 0, 450, 600], PHOTO, size, VIEW);
  assert.equal(zoom, 2);
  assert.equal(y, 0);
  assert.equal(x, held(x, size.width * zoom, VIEW.width));
});

test("a frame as large as the photograph is the whole of it", () => {
  const size = fitted(PHOTO, VIEW);
  assert.deepEqual(framedOn([0, 0, 900, 1200], PHOTO, size, VIEW), whole(size, VIEW));
});

test("what is shorter than the view stands in its middle, what is longer covers it", () => {
  assert.equal(held(-50, 300, 500), 100);
  assert.equal(held(20, 900, 500), 0);
  assert.equal(held(-700, 900, 500), -400);
});
