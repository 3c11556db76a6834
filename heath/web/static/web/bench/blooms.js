// Blooms: chosen, grouped, added, split, merged, given another part to play.
import { circlePath } from "./geometry.js";

export const blooms = {
  chosen: null,

  get chosenWords() {
    return this.chosen ? this.chosen.words : "";
  },

  // The blooms come anew with every answer.
  chooseAgain() {
    if (!this.chosen || this.busy) return;
    const near = this.bloomAt(this.chosen);
    if (!near) this.chosen = null;
    else if (near !== document.activeElement) near.focus({ preventScroll: true });
  },

  ring(layers, event) {
    const at = this.point(event);
    const bloom = event.target.closest(".bloom") || this.bloomAt(at);
    if (bloom) {
      if (event.shiftKey && this.chosen)
        this.make({ act: "merge", at: [this.chosen.x, this.chosen.y], to: this.middle(bloom) });
      else bloom.focus({ preventScroll: true });
      return;
    }
    const trace = layers.querySelector(".trace");
    trace.setAttribute("class", "trace ring");
    layers.setPointerCapture(event.pointerId);
    let radius = 0;
    this.chosen = null;
    this.drag(
      layers,
      (e) => {
        const p = this.point(e);
        radius = Math.hypot(p.x - at.x, p.y - at.y);
        trace.setAttribute("d", circlePath(at, radius));
      },
      () => {
        const small = radius < 0.006 * this.$refs.handles.viewBox.baseVal.height;
        this.chosen = { ...at, words: "New bloom" };
        this.make({ act: "add", at: [at.x, at.y], radius: small ? null : radius });
      },
    );
  },

  // The blooms of one group are shown together.
  pick(event) {
    if (this.pickTint(event)) return;
    const wish = event.target.closest("[data-try]")?.dataset.try;
    if (wish) {
      localStorage.setItem(this.triesKey(), wish);
      this.takeUp("try");
      return;
    }
    const one = event.target.closest("button[data-group]");
    const on = one && one.getAttribute("aria-pressed") !== "true";
    document
      .querySelectorAll("button[data-group]")
      .forEach((b) => b.setAttribute("aria-pressed", String(b === one && on)));
    document
      .querySelectorAll("#layers .bloom")
      .forEach((b) => b.classList.toggle("picked", on && b.dataset.group === one.dataset.group));
    if (on && this.tool !== "blooms") this.takeUp("blooms");
  },

  middle(bloom) {
    return [Number(bloom.dataset.x), Number(bloom.dataset.y)];
  },

  bloomAt(p) {
    let best = null;
    let least = 1;
    document.querySelectorAll("#layers .bloom").forEach((bloom) => {
      const [x, y] = this.middle(bloom);
      const off = Math.hypot(x - p.x, y - p.y) / Number(bloom.dataset.r);
      if (off < least) [best, least] = [bloom, off];
    });
    return best;
  },

  choose(bloom) {
    const [x, y] = this.middle(bloom);
    this.chosen = { x, y, words: bloom.getAttribute("aria-label") };
  },

  act(event) {
    this.actOn(event.target.dataset.act, event.target.dataset.role);
  },

  actOn(act, role) {
    if (!this.chosen) return;
    this.make({ act, at: [this.chosen.x, this.chosen.y], role: role || null });
    if (act === "remove") this.chosen = null;
  },
};
