// Tools: what a press on the picture does, by pointer and by keys.
import { arrow, boxPath, circlePath, stemPath, strokePath, within } from "./geometry.js";

export const tools = {
  tool: "handles",
  breadth: 8, // thousandths of the picture's height, half of the brush
  carried: null,
  tip: null, // of a stem that is drawn by keys

  get onTrial() {
    return this.tool === "try";
  },

  get painting() {
    return this.tool === "petal" || this.tool === "leaf";
  },

  get brushing() {
    return this.tool === "plant" || this.tool === "not-plant" || this.painting;
  },

  get drawing() {
    return this.tool === "container";
  },

  get outlining() {
    return this.tool === "plant" || this.tool === "not-plant";
  },

  get neutralising() {
    return this.tool === "neutral";
  },

  get linedrawing() {
    return this.tool === "stems";
  },

  get blooming() {
    return this.tool === "blooms" && !this.chosen;
  },

  get remarking() {
    return this.tool === "remark" && !this.spot;
  },

  // One bloom is chosen, not a group.
  get alone() {
    return Boolean(this.chosen) && !this.chosen.others;
  },

  get panelShown() {
    return this.tool !== "handles" || Boolean(this.laidOver);
  },

  get spotted() {
    return this.tool === "remark" && Boolean(this.spot);
  },

  // Tools: what a press on the picture does.
  take(event) {
    this.takeUp(event.currentTarget.dataset.tool);
  },

  takeUp(tool) {
    this.tool = tool;
    this.chosen = null;
    this.tip = null;
    this.spot = null;
    this.away();
    document.activeElement
      ?.closest(tool === "handles" ? ".bloom, .stem" : ".bloom, .stem, .handle")
      ?.blur();
    // Another tool's button would take the space bar that is meant for the picture.
    document.activeElement?.closest(`.rail [data-tool]:not([data-tool="${tool}"])`)?.blur();
    document.querySelector("#layers .trace").setAttribute("d", "");
    if (tool === "blooms") document.querySelector(".groups")?.scrollIntoView({ block: "nearest" });
    this.$refs.stand.dataset.tool = tool;
    this.$root.dataset.tool = tool;
    if (tool === "try") this.startTrying();
    this.showLayers();
    this.$root
      .querySelectorAll(".rail [data-tool]")
      .forEach((b) => b.setAttribute("aria-pressed", String(b.dataset.tool === tool)));
  },

  setBreadth() {
    this.breadth = Math.min(40, Math.max(2, Number(this.$refs.breadth.value)));
    localStorage.setItem("breadth", this.breadth);
  },

  radius() {
    return (this.breadth / 1000) * this.$refs.handles.viewBox.baseVal.height;
  },

  press(event) {
    if (this.onTrial) {
      this.pressTry(event);
      return;
    }
    const layers = event.target.closest("#layers");
    if (!layers || event.button > 0) return;
    event.preventDefault();
    if (this.brushing) this.brush(layers, event);
    else if (this.tool === "neutral") this.pressNeutral(event);
    else if (this.tool === "remark") this.pin(this.point(event));
    else if (this.tool === "blooms") this.ring(layers, event);
    else if (this.tool === "stems") this.line(layers, event);
    else if (this.tool === "container") this.drawContainer(layers, event);
  },

  // One drag from an end of the rim to the opposite end of the foot puts all four handles.
  drawContainer(layers, event) {
    const start = this.point(event);
    let end = start;
    layers.setPointerCapture(event.pointerId);
    this.drag(
      layers,
      (e) => {
        end = this.point(e);
        this.sketch("ring", boxPath(start, end));
        this.magnify(end);
      },
      () => {
        this.away();
        this.setContainer(start, end);
      },
    );
  },

  setContainer(start, end) {
    if (
      Math.hypot(end.x - start.x, end.y - start.y) <
      0.02 * this.$refs.handles.viewBox.baseVal.height
    )
      return;
    this.make({ start: [start.x, start.y], end: [end.x, end.y] });
    this.takeUp("handles");
  },

  brush(layers, event) {
    const trace = layers.querySelector(".trace");
    const radius = this.radius();
    const points = [this.point(event)];
    trace.setAttribute("stroke-width", 2 * radius);
    trace.setAttribute("class", "trace " + this.tool);
    layers.setPointerCapture(event.pointerId);
    const draw = () => trace.setAttribute("d", strokePath(points));
    draw();
    this.drag(
      layers,
      (e) => {
        const p = this.point(e);
        const before = points[points.length - 1];
        if (Math.hypot(p.x - before.x, p.y - before.y) < radius / 3 || points.length >= 400) return;
        points.push(p);
        draw();
      },
      () => this.make(this.stroke(points, radius, event.shiftKey)),
    );
  },

  stroke(points, radius, alone) {
    const made = { points: points.map((p) => [p.x, p.y]), radius };
    return this.painting
      ? { ...made, petal: this.tool === "petal", alone }
      : { ...made, plant: this.tool === "plant" };
  },

  // A stem is bent by its ends and its bend, or drawn from tip to foot.
  line(layers, event) {
    const at = this.point(event);
    const stem = event.target.closest(".stem");
    const end = event.target.dataset.end;
    if (stem && !end) {
      stem.focus({ preventScroll: true });
      return;
    }
    const places = stem ? this.run(stem) : { tip: [at.x, at.y], foot: [at.x, at.y] };
    const was = stem ? places.tip : null;
    const trace = layers.querySelector(".trace");
    trace.setAttribute("class", "trace ring");
    layers.setPointerCapture(event.pointerId);
    let moved = false;
    this.drag(
      layers,
      (e) => {
        const p = this.point(e);
        moved =
          moved ||
          Math.hypot(p.x - at.x, p.y - at.y) > 0.004 * this.$refs.handles.viewBox.baseVal.height;
        places[end || "foot"] = [p.x, p.y];
        trace.setAttribute("d", stemPath(places));
        this.magnify(p);
      },
      () => {
        this.away();
        if (!moved) trace.setAttribute("d", "");
        else this.make({ line: stem ? "bend" : "draw", at: was, ...places });
      },
    );
  },

  run(stem) {
    return Object.fromEntries(
      ["tip", "bend", "foot"].map((name) => [name, stem.dataset[name].split(",").map(Number)]),
    );
  },

  // Without a mouse: the arrows carry the brush, a new bloom or the end of a new stem; the space
  // bar
  // sets it down.
  carry(event) {
    const box = this.$refs.handles.viewBox.baseVal;
    const unit = (box.height / 1000) * (event.shiftKey ? 30 : 5);
    const step = arrow(event.key) || [0, 0];
    const from = this.carried || { x: box.width / 2, y: box.height / 3 };
    const at = within({ x: from.x + step[0] * unit, y: from.y + step[1] * unit }, box);
    this.carried = at;
    this.magnify(at);
    const down = event.key === " ";
    if (this.tool === "remark") this.carryRemark(at, down);
    else if (this.brushing) this.carryBrush(at, down, event.shiftKey);
    else if (this.tool === "blooms") this.carryBloom(at, down);
    else if (this.tool === "container") this.carryContainer(at, down);
    else this.carryStem(at, down);
  },

  carryRemark(at, down) {
    this.sketch("ring", circlePath(at, this.$refs.handles.viewBox.baseVal.height * 0.012));
    if (down) this.pin(at);
  },

  carryBrush(at, down, alone) {
    this.sketch(this.tool, strokePath([at]), 2 * this.radius());
    if (down) this.make(this.stroke([at], this.radius(), alone));
  },

  carryBloom(at, down) {
    const blooms = [...document.querySelectorAll("#layers .bloom")];
    const radii = blooms.map((bloom) => Number(bloom.dataset.r)).sort((a, b) => a - b);
    const usual = this.$refs.handles.viewBox.baseVal.height * 0.03;
    this.sketch("ring", circlePath(at, radii[radii.length >> 1] || usual));
    if (!down) return;
    this.chosen = { ...at, words: "New bloom" };
    this.make({ act: "add", at: [at.x, at.y], radius: null });
  },

  carryContainer(at, down) {
    const dot = circlePath(at, this.$refs.handles.viewBox.baseVal.height * 0.006);
    this.sketch("ring", (this.tip ? boxPath(this.tip, at) : "") + dot);
    if (!down) return;
    const start = this.tip;
    this.tip = start ? null : at;
    if (start) this.setContainer(start, at);
  },

  carryStem(at, down) {
    const high = this.$refs.handles.viewBox.baseVal.height;
    const far = this.tip && Math.hypot(at.x - this.tip.x, at.y - this.tip.y) > 0.01 * high;
    if (down && far) {
      const tip = [this.tip.x, this.tip.y];
      this.make({ line: "draw", at: null, tip, foot: [at.x, at.y], bend: null });
      this.tip = null;
    } else if (down) this.tip = at;
    const run = this.tip ? `M${this.tip.x} ${this.tip.y}L${at.x} ${at.y}` : "";
    this.sketch("ring", run + circlePath(at, high * 0.006));
  },

  sketch(kind, d, width = "") {
    const trace = document.querySelector("#layers .trace");
    trace.setAttribute("class", "trace " + kind);
    if (width) trace.setAttribute("stroke-width", width);
    trace.setAttribute("d", d);
  },

  drag(on, move, end) {
    const drop = (e) => {
      on.removeEventListener("pointermove", move);
      on.removeEventListener("pointerup", drop);
      on.removeEventListener("pointercancel", drop);
      if (e.type === "pointerup") end();
    };
    on.addEventListener("pointermove", move);
    on.addEventListener("pointerup", drop);
    on.addEventListener("pointercancel", drop);
  },
};
