// Paths and places on the picture, in its pixels.

const STEPS = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

// The way an arrow key goes, or null for another key.
export function arrow(key) {
  return STEPS[key] || null;
}

// A place held inside a box {width, height}.
export function within(place, box) {
  return {
    x: Math.min(Math.max(place.x, 0), box.width),
    y: Math.min(Math.max(place.y, 0), box.height),
  };
}

export function circlePath(at, radius) {
  const turn = `a${radius} ${radius} 0 1 0`;
  return `M${at.x - radius} ${at.y}${turn} ${2 * radius} 0${turn} ${-2 * radius} 0`;
}

export function boxPath(a, b) {
  return `M${a.x} ${a.y}H${b.x}V${b.y}H${a.x}Z`;
}

// A stroke of the brush; a single point is drawn as a dot.
export function strokePath(points) {
  const run = points.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join("L");
  return `M${run}${points.length === 1 ? "h.1" : ""}`;
}

// A stem from foot to tip through its bend (half way between them when it has none).
export function stemPath({ tip, foot, bend }) {
  const half = bend || [(tip[0] + foot[0]) / 2, (tip[1] + foot[1]) / 2];
  const control = half.map((v, i) => 2 * v - (tip[i] + foot[i]) / 2);
  return `M${foot.join(" ")}Q${control.join(" ")} ${tip.join(" ")}`;
}

// What the loupe shows and where it stands: `p` in the picture (`box` its size), the stand as large
// as it is on screen at `zoom`, the loupe's own `size` on screen.
export function loupeView(p, box, stand, zoom, size = 180) {
  const across = (size / stand.width) * box.width * 0.22;
  const [wide, high] = [stand.width / zoom, stand.height / zoom];
  const [x, y] = [(p.x / box.width) * wide, (p.y / box.height) * high];
  const own = size / zoom; // it keeps its size on the screen
  const gap = 28 / zoom;
  return {
    viewBox: `${p.x - across / 2} ${p.y - across / 2} ${across} ${across}`,
    cross: `M${p.x - across / 12} ${p.y}h${across / 6}M${p.x} ${p.y - across / 12}v${across / 6}`,
    left: x > wide / 2 ? x - own - gap : x + gap,
    top: Math.max(0, Math.min(high - own, y - own / 2)),
  };
}
