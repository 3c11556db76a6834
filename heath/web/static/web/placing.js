// A picture in which no piece was found: the container is drawn by one drag, or by keys.
import { arrow, boxPath, circlePath, within } from "./bench/geometry.js";

document.addEventListener("alpine:init", () => {
  Alpine.data("placing", () => ({
    first: null,
    carried: null,

    box() {
      return this.$refs.picture.viewBox.baseVal;
    },
    point(event) {
      const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(
        this.$refs.picture.getScreenCTM().inverse(),
      );
      return {
        x: Math.min(Math.max(p.x, 0), this.box().width),
        y: Math.min(Math.max(p.y, 0), this.box().height),
      };
    },
    press(event) {
      if (event.button > 0) return;
      event.preventDefault();
      const picture = this.$refs.picture;
      const start = this.point(event);
      picture.setPointerCapture(event.pointerId);
      const move = (e) => this.draw(start, this.point(e));
      const drop = (e) => {
        picture.removeEventListener("pointermove", move);
        picture.removeEventListener("pointerup", drop);
        picture.removeEventListener("pointercancel", drop);
        if (e.type === "pointerup") this.keep(start, this.point(e));
      };
      picture.addEventListener("pointermove", move);
      picture.addEventListener("pointerup", drop);
      picture.addEventListener("pointercancel", drop);
    },
    draw(a, b) {
      this.$refs.trace.setAttribute("d", boxPath(a, b));
    },
    keep(a, b) {
      if (Math.hypot(a.x - b.x, a.y - b.y) < 0.02 * this.box().height) return;
      this.draw(a, b);
      this.$refs.start_x.value = a.x;
      this.$refs.start_y.value = a.y;
      this.$refs.end_x.value = b.x;
      this.$refs.end_y.value = b.y;
      this.$refs.send.disabled = false;
      this.$refs.send.focus();
    },
    key(event) {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.target.closest("a, button, input")) return;
      const step = arrow(event.key);
      if (!step && event.key !== " ") return;
      event.preventDefault();
      this.carry(step || [0, 0], event.shiftKey);
      if (event.key === " " && this.setDown()) return;
      if (this.first) this.draw(this.first, this.carried);
      else this.$refs.trace.setAttribute("d", circlePath(this.carried, 0.008 * this.box().height));
    },
    carry(step, far) {
      const unit = (this.box().height / 1000) * (far ? 30 : 5);
      const from = this.carried || { x: this.box().width / 2, y: this.box().height / 2 };
      const at = { x: from.x + step[0] * unit, y: from.y + step[1] * unit };
      this.carried = within(at, this.box());
    },
    setDown() {
      const start = this.first;
      this.first = start ? null : this.carried;
      if (start) this.keep(start, this.carried);
      return Boolean(start);
    },
  }));
});
