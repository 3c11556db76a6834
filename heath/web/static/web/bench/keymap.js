// What each key means on the bench.

const TOOLS = {
  h: "handles",
  b: "plant",
  e: "not-plant",
  q: "petal",
  d: "leaf",
  o: "blooms",
  t: "stems",
  y: "try",
  g: "neutral",
  j: "container",
};
const LENSES = {
  1: "proportion",
  2: "balance",
  3: "focal",
  4: "colour",
  5: "line",
  6: "finish",
  0: "all",
};
const BUTTONS = {
  a: "accept",
  u: "undo",
  n: "next",
  p: "previous",
  r: "return",
  s: "confirm",
  m: "reopen",
};
const BREADTHS = { "[": -2, "]": 2 };
const ON_BLOOM = {
  Delete: ["remove"],
  Backspace: ["remove"],
  s: ["split"],
  j: ["merge"],
  f: ["role", "focal"],
  m: ["role", "mass"],
  l: ["role", "line"],
  i: ["role", "filler"],
  g: ["role", "foliage"],
};

// What a key does to the bloom in hand: [act, part], or null.
export function onBloom(key) {
  return ON_BLOOM[key] || null;
}

// What a key means wherever it is pressed: {kind, value}, or null.
export function meaning(key) {
  const low = key.toLowerCase();
  if (LENSES[key]) return { kind: "lens", value: LENSES[key] };
  if (TOOLS[low]) return { kind: "tool", value: TOOLS[low] };
  if (BREADTHS[key]) return { kind: "breadth", value: BREADTHS[key] };
  if (low === "z") return { kind: "loupe" };
  if (low === "w") return { kind: "eye" };
  if (BUTTONS[low]) return { kind: "button", value: BUTTONS[low] };
  return key === "Escape" ? { kind: "leave" } : null;
}
