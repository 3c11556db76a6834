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
    if (this.chosen.others) {
      this.showPicked();
      return;
    }
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
    if (!one) return;
    const on = one.getAttribute("aria-pressed") !== "true";
    document
      .querySelectorAll("button[data-group]")
      .forEach((b) => b.setAttribute("aria-pressed", String(b === one && on)));
    if (on && this.tool !== "blooms") this.takeUp("blooms");
    this.chosen = on ? this.group(one) : null;
    this.showPicked();
  },

  // All blooms of a group as what is chosen: the first, and the others.
  group(button) {
    const own = [...document.querySelectorAll("#layers .bloom")].filter(
      (b) => b.dataset.group === button.dataset.group,
    );
    const [first, ...others] = own.map((bloom) => this.middle(bloom));
    const words = button.textContent.replace(/\s+/g, " ").trim();
    return { x: first[0], y: first[1], words, others: others.length ? others : null };
  },

  showPicked() {
    const { x, y, others } = this.chosen || {};
    const places = others ? [[x, y], ...others] : [];
    document.querySelectorAll("#layers .bloom").forEach((bloom) => {
      const at = this.middle(bloom);
      const picked = places.some((p) => Math.hypot(p[0] - at[0], p[1] - at[1]) < 2);
      bloom.classList.toggle("picked", picked);
    });
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
    this.actOn(event.currentTarget.dataset.act, event.currentTarget.dataset.role);
  },

  actOn(act, role) {
    if (!this.chosen) return;
    const others = this.chosen.others || [];
    this.make({ act, at: [this.chosen.x, this.chosen.y], role: role || null, others });
    if (act === "remove") this.chosen = null;
  },
};
