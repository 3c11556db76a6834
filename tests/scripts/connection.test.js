// What a person reads when something sent did not arrive or was refused.
import assert from "node:assert/strict";
import test from "node:test";

import { leaves, sentence } from "../../heath/web/static/web/connection.js";

const element = (attributes) => ({ getAttribute: (name) => attributes[name] ?? null });

test("no answer says that nothing was sent", () => {
  assert.match(sentence(0), /Nothing was sent/);
});

test("a short plain answer is shown as it came, a page or a long one is not", () => {
  assert.equal(
    sentence(401, "You are signed out.", "text/plain; charset=utf-8"),
    "You are signed out.",
  );
  assert.match(sentence(500, "<h1>Broken</h1>", "text/html"), /went wrong/);
  assert.match(sentence(500, "x".repeat(301), "text/plain"), /went wrong/);
  assert.match(sentence(404), /no longer there/);
  assert.match(sentence(413), /Send less/);
  assert.match(sentence(409, "", "text/plain"), /Load the page again/);
});

test("only a form that the browser itself posts is held back", () => {
  assert.equal(leaves(element({ method: "POST" }), null), true);
  assert.equal(leaves(element({ method: "get" }), null), false);
  assert.equal(leaves(element({}), null), false);
  assert.equal(leaves(element({ method: "post", "hx-post": "/x" }), null), false);
  assert.equal(leaves(element({ method: "post" }), element({ "hx-post": "/x" })), false);
  assert.equal(leaves(element({}), element({ formmethod: "post" })), true);
});
