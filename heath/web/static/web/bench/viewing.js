// Looking closer at the picture, laying something over it, and what the marker writes: mixed into
// the bench.
import { MOST, fitted, framedOn, whole } from "./framing.js";
import { circlePath } from "./geometry.js";

export const viewing = {
  zoom: 1,
  pan: { x: 0, y: 0 },
  size: { width: 1, height: 1 }, // of the whole photograph on screen
  looking: "piece", // at the piece, at the whole, or closer
  fingers: {},
  laidOver: "",
  spot: null,
  pressedAt: 0,

  initViewing() {
    const field = this.$refs.view;
    this.looking = localStorage.getItem("looking") === "whole" ? "whole" : "piece";
    new ResizeObserver(() => this.layOut()).observe(field);
    field.addEventListener(
      "wheel",
      (e) => {
        if (e.target.closest(".lenses")) return;
        e.preventDefault();
        this.zoomTo(this.zoom * Math.exp(-e.deltaY * 0.0015), e.clientX, e.clientY);
      },
      { passive: false },
    );
    field.addEventListener("pointerdown", (e) => this.finger(e), true);
    addEventListener("keyup", (e) => this.released(e));
    document.addEventListener("mousedown", (e) => this.phrase(e));
    // Whether a colleague changed something is told against what this page last saw.
    document.body.addEventListener("htmx:configRequest", (e) => {
      if (e.detail.elt.id === "others") e.detail.parameters.seen = this.seen();
    });
    document.addEventListener("focusin", (e) => {
      const written = e.target.closest("input[name=reason], input[name=words]");
      document.getElementById("phrases")?.classList.toggle("shown", Boolean(written));
      if (written?.closest(".column")) written.scrollIntoView({ block: "center" });
    });
  },
  // The whole photograph as large as the view holds it; then as it was looked at.
  layOut() {
    const stand = this.$refs.stand;
    const photo = this.$refs.handles.viewBox.baseVal;
    const view = this.$refs.view.getBoundingClientRect();
    if (!view.width || !view.height) return;
    this.size = fitted(photo, view);
    stand.style.width = `${this.size.width}px`;
    stand.style.height = `${this.size.height}px`;
    if (this.looking !== "closer") this.lookAt(this.looking);
    else this.setZoom();
  },
  // "piece": framed on it; "whole": the whole photograph.
  lookAt(what) {
    const photo = this.$refs.handles.viewBox.baseVal;
    const view = this.$refs.view.getBoundingClientRect();
    const frame = this.$refs.stand.dataset.frame.trim().split(" ").map(Number);
    const way = what === "piece" ? framedOn(frame, photo, this.size, view) : whole(this.size, view);
    this.looking = what;
    localStorage.setItem("looking", what);
    this.zoom = way.zoom;
    this.pan = { x: way.x, y: way.y };
    this.setZoom();
  },
  // The place under the pointer stays where it is.
  zoomTo(zoom, clientX, clientY) {
    const next = Math.min(Math.max(zoom, 1), MOST);
    if (next === 1) {
      this.lookAt("whole");
      return;
    }
    const view = this.$refs.view.getBoundingClientRect();
    const box = this.$refs.stand.getBoundingClientRect();
    const [x, y] = [clientX ?? view.x + view.width / 2, clientY ?? view.y + view.height / 2];
    const ratio = next / this.zoom;
    this.pan = {
      x: this.pan.x + (x - box.x) * (1 - ratio),
      y: this.pan.y + (y - box.y) * (1 - ratio),
    };
    this.zoom = next;
    this.looking = "closer";
    this.setZoom();
  },
  setZoom() {
    const stand = this.$refs.stand;
    stand.style.transform = `translate(${this.pan.x}px, ${this.pan.y}px) scale(${this.zoom})`;
    stand.style.setProperty("--zoom", this.zoom);
    const units = this.$refs.handles.viewBox.baseVal.height / (this.size.height * this.zoom);
    stand.style.setProperty("--px", units); // of the picture's units to a pixel of the screen
    stand.classList.toggle("zoomed", this.zoom > 1);
    this.$refs.zoomed.textContent = this.looking === "piece" ? "Whole" : "Piece";
  },
  pressZoom() {
    this.lookAt(this.looking === "piece" ? "whole" : "piece");
  },
  // One finger or the mouse moves a picture that is looked at closer, two fingers zoom; handles and
  // tools go first.
  finger(event) {
    const taken =
      event.target.closest(".handle, .lenses, .bloom, .stem, button, a, input") ||
      (this.tool !== "handles" && event.pointerType !== "touch");
    this.fingers[event.pointerId] = { x: event.clientX, y: event.clientY };
    const lift = (e) => {
      delete this.fingers[e.pointerId];
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", lift);
      removeEventListener("pointercancel", lift);
    };
    const move = (e) => {
      if (e.pointerId !== event.pointerId) return;
      const was = this.fingers[e.pointerId];
      const others = Object.entries(this.fingers).filter(([id]) => Number(id) !== e.pointerId);
      const now = { x: e.clientX, y: e.clientY };
      if (others.length === 1) {
        const other = others[0][1];
        const apart = (p) => Math.hypot(p.x - other.x, p.y - other.y);
        this.zoomTo(
          (this.zoom * apart(now)) / Math.max(apart(was), 1),
          (now.x + other.x) / 2,
          (now.y + other.y) / 2,
        );
      } else if (!taken && this.zoom > 1) {
        this.pan = { x: this.pan.x + now.x - was.x, y: this.pan.y + now.y - was.y };
        this.setZoom();
      }
      this.fingers[e.pointerId] = now;
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", lift);
    addEventListener("pointercancel", lift);
  },

  // Fainter things laid over the picture: as it was found, the form asked for, the exemplar.
  layOver(event) {
    this.turnLaid(event.currentTarget.dataset.over);
  },
  turnLaid(what) {
    this.laidOver = this.laidOver === what ? "" : what;
    document
      .querySelectorAll("[data-over]")
      .forEach((b) => b.setAttribute("aria-pressed", String(b.dataset.over === this.laidOver)));
    this.$refs.stand.classList.toggle("as-found", this.laidOver === "found");
    this.fetchLaid();
  },
  fetchLaid() {
    const laid = document.getElementById("laid");
    if (!this.laidOver) {
      laid.replaceChildren();
      document.getElementById("laid-says").textContent = "";
      return;
    }
    htmx.ajax("GET", this.$root.dataset[this.laidOver], { target: "#laid", swap: "outerHTML" });
  },

  // A remark pinned to a spot.
  pin(p) {
    this.spot = p;
    const form = this.$refs.remark;
    form.elements.x.value = p.x.toFixed(1);
    form.elements.y.value = p.y.toFixed(1);
    this.sketch("ring", circlePath(p, this.$refs.handles.viewBox.baseVal.height * 0.012));
    this.$nextTick(() => form.elements.words.focus());
  },
  pinned() {
    this.spot = null;
    this.$refs.remark.reset();
    this.$refs.remark.dispatchEvent(new Event("input", { bubbles: true }));
    this.takeUp("handles");
  },
  // Words written before go in at the caret: Alt and their number.
  phrase(event) {
    const one = event.target.closest("[data-phrase]");
    if (!one) return;
    event.preventDefault();
    this.putIn(one);
  },
  putIn(one) {
    const field = document.activeElement;
    if (!one || !field?.matches("input[name=reason], input[name=words]")) return;
    field.setRangeText(one.dataset.phrase, field.selectionStart, field.selectionEnd, "end");
    field.dispatchEvent(new Event("input", { bubbles: true }));
  },
  keyPhrase(event) {
    const digit = event.altKey && /^Digit([1-9])$/.exec(event.code);
    if (!digit || !event.target.matches("input[name=reason], input[name=words]")) return false;
    event.preventDefault();
    this.putIn(document.querySelectorAll("[data-phrase]")[digit[1] - 1]);
    return true;
  },

  // Held, the sheet of keys or what was found shows for as long; tapped, it stays.
  keyViewing(event) {
    const key = event.key.toLowerCase();
    const held = key === "k" || key === "v";
    if (held && event.repeat) return true;
    if (held) this.pressedAt = Date.now();
    const does = {
      k: () => this.turnKeys(),
      v: () => this.turnLaid("found"),
      f: () => this.turnLaid("form"),
      x: () => this.turnLaid("exemplar"),
      i: () => this.$refs.matched && this.turnLaid(this.$refs.matched.dataset.over),
      "+": () => this.zoomTo(this.zoom * 1.5),
      "=": () => this.zoomTo(this.zoom * 1.5),
      "-": () => this.zoomTo(this.zoom / 1.5),
      ".": () => this.pressZoom(),
      c: () => this.takeUp("remark"),
    }[key];
    does?.();
    return Boolean(does);
  },
  released(event) {
    const key = event.key.toLowerCase();
    if (Date.now() - this.pressedAt < 350) return;
    if (key === "k" && this.keysShown) this.turnKeys();
    if (key === "v" && this.laidOver === "found") this.turnLaid("found");
  },
};
