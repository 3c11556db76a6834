// Colours of the palette set right, another eye's view, and colours swapped in a trial. Part of the
// bench.
export const tinting = {
  tint(change) {
    this.make({ at: null, which: null, to: null, name: null, ...change });
  },
  // What lies under the press is white or grey.
  pressNeutral(event) {
    const at = this.point(event);
    this.tint({ tint: "neutral", at: [at.x, at.y] });
    this.takeUp("handles");
  },
  pickTint(event) {
    const eye = event.target.closest("[data-eye]");
    if (eye && eye.matches("button")) {
      this.seeAs(eye.dataset.eye);
      return true;
    }
    if (event.target.closest('[data-tool="neutral"]')) {
      this.takeUp("neutral");
      this.say("Click a white or grey spot of the picture in fair light");
      return true;
    }
    const brush = event.target.closest('[data-tool="petal"], [data-tool="leaf"]');
    if (brush) {
      this.takeUp(brush.dataset.tool);
      return true;
    }
    const split = event.target.closest('button[data-tint="split"]');
    if (split) this.tint({ tint: "split", which: Number(split.dataset.which) });
    return Boolean(split);
  },
  changeTint(event) {
    const one = event.target.closest("[data-tint]");
    if (!one || !one.value) return;
    const which = Number(one.dataset.which);
    if (one.dataset.tint === "merge") this.tint({ tint: "merge", which, to: Number(one.value) });
    else if (one.dataset.tint === "name") this.tint({ tint: "name", which, name: one.value });
  },
  seeAs(eye) {
    this.$refs.stand.dataset.eye = eye;
    document
      .querySelectorAll("button[data-eye]")
      .forEach((b) => b.setAttribute("aria-pressed", String(b.dataset.eye === eye)));
  },
  swapColour() {
    const which = Number(this.$refs.colour.value);
    if (which) this.attempt({ act: "colour", which, hex: this.$refs.hex.value });
  },
};
