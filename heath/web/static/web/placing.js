// A picture in which no piece was found: the container is drawn by one drag, or by keys.
document.addEventListener("alpine:init", () => {
  Alpine.data("placing", () => ({
    first: null,
    carried: null,

    box() {
      return this.$refs.picture.viewBox.baseVal;
    },
    point(event) {
      const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.$refs.picture.getScreenCTM().inverse());
      return { x: Math.min(Math.max(p.x, 0), this.box().width), y: Math.min(Math.max(p.y, 0), this.box().height) };
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
      this.$refs.trace.setAttribute("d", `M${a.x} ${a.y}H${b.x}V${b.y}H${a.x}Z`);
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
      if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest("a, button, input")) return;
      const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (!step && event.key !== " ") return;
      event.preventDefault();
      const unit = (this.box().height / 1000) * (event.shiftKey ? 30 : 5);
      const from = this.carried || { x: this.box().width / 2, y: this.box().height / 2 };
      const at = { x: from.x + (step ? step[0] * unit : 0), y: from.y + (step ? step[1] * unit : 0) };
      this.carried = { x: Math.min(Math.max(at.x, 0), this.box().width), y: Math.min(Math.max(at.y, 0), this.box().height) };
      const r = 0.008 * this.box().height;
      const ring = `M${this.carried.x - r} ${this.carried.y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;
      if (event.key === " " && this.first) {
        this.keep(this.first, this.carried);
        this.first = null;
        return;
      }
      if (event.key === " ") this.first = this.carried;
      if (this.first) this.draw(this.first, this.carried);
      else this.$refs.trace.setAttribute("d", ring);
    },
  }));
});
