// The queue of changes: nothing overtakes what is on its way, and nothing is lost.
import assert from "node:assert/strict";
import test from "node:test";

import {
  afterStatus,
  notSaved,
  queued,
  restAfter,
} from "../../heath/web/static/web/bench/outbox.js";

const place = (gesture, x) => ({ to: "/move/", values: { gesture, x } });

test("a newer place of a gesture takes the older one's turn", () => {
  const waiting = queued([place("a", 1)], place("a", 2), false);
  assert.deepEqual(waiting, [place("a", 2)]);
});

test("what is on its way is not overtaken", () => {
  const waiting = queued([place("a", 1)], place("a", 2), true);
  assert.deepEqual(waiting, [place("a", 1), place("a", 2)]);
  assert.deepEqual(queued(waiting, place("a", 3), true), [place("a", 1), place("a", 3)]);
});

test("another gesture waits behind", () => {
  const waiting = queued([place("a", 1)], place("b", 2), false);
  assert.deepEqual(waiting, [place("a", 1), place("b", 2)]);
  assert.deepEqual(queued(waiting, place("a", 3), false).length, 3);
});

test("a handle on its way rests longer while answers are slow, up to a second", () => {
  assert.equal(restAfter(200, 0), 200);
  assert.equal(restAfter(200, 200), 300);
  assert.equal(restAfter(151, 800), 1000);
  assert.equal(restAfter(5000, 0), 1000);
});

test("it rests less again while answers are swift, and never less than they took", () => {
  assert.equal(restAfter(150, 500), 460);
  assert.equal(restAfter(60, 460), 420);
  assert.equal(restAfter(60, 80), 60);
  assert.equal(restAfter(60, 0), 60);
});

test("the waiting changes themselves are not altered", () => {
  const before = [place("a", 1)];
  queued(before, place("a", 2), false);
  assert.deepEqual(before, [place("a", 1)]);
});

test("an answer has arrived, is refused for good, or is to be tried again", () => {
  // RFC 9110, section 15: a client's fault is not mended by sending the same again.
  assert.deepEqual([200, 204].map(afterStatus), ["done", "done"]);
  assert.deepEqual([400, 403, 404].map(afterStatus), ["refused", "refused", "refused"]);
  assert.deepEqual([0, 401, 429, 500, 502, 503].map(afterStatus), Array(6).fill("again"));
});

test("who is signed out is told so, not that it is tried again", () => {
  assert.match(notSaved(401), /^Signed out/);
  assert.deepEqual([0, 429, 503].map(notSaved), Array(3).fill("Not saved yet; trying again"));
});
