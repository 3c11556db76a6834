// Keys of the bench.
import assert from "node:assert/strict";
import test from "node:test";

import { meaning, onBloom } from "../../heath/web/static/web/bench/keymap.js";
import { mixed } from "../../heath/web/static/web/bench/mixed.js";

test("letters take up tools, whatever their case", () => {
  assert.deepEqual(meaning("h"), { kind: "tool", value: "handles" });
  assert.deepEqual(meaning("H"), { kind: "tool", value: "handles" });
});

test("figures turn lenses", () => {
  assert.deepEqual(meaning("4"), { kind: "lens", value: "colour" });
  assert.deepEqual(meaning("0"), { kind: "lens", value: "all" });
});

test("brackets change the brush, letters press buttons, Escape leaves", () => {
  assert.deepEqual(meaning("]"), { kind: "breadth", value: 2 });
  assert.deepEqual(meaning("["), { kind: "breadth", value: -2 });
  assert.deepEqual(meaning("a"), { kind: "button", value: "accept" });
  assert.deepEqual(meaning("Escape"), { kind: "leave" });
});

test("other keys mean nothing", () => {
  for (const key of ["Tab", "Enter", "?", "é", "ArrowUp"]) assert.equal(meaning(key), null);
});

test("no key has two meanings", () => {
  const kinds = "abcdefghijklmnopqrstuvwxyz0123456789[]".split("").map((k) => meaning(k));
  const said = kinds.filter(Boolean).map((m) => `${m.kind} ${m.value}`);
  assert.equal(new Set(said).size, said.length);
});

test("on a bloom a letter gives it its part", () => {
  assert.deepEqual(onBloom("f"), ["role", "focal"]);
  assert.deepEqual(onBloom("Delete"), ["remove"]);
  assert.equal(onBloom("x"), null);
});

test("parts are mixed with their getters, and their state is each one's own", () => {
  const part = {
    waiting: [],
    get any() {
      return this.waiting.length > 0;
    },
  };
  const [one, other] = [
    mixed(part, {
      add() {
        this.waiting.push(1);
      },
    }),
    mixed(part),
  ];
  one.add();
  assert.deepEqual([one.any, other.any, part.any], [true, false, false]);
});
