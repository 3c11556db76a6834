// Bands of a rule set, dragged by their edges; the server keeps and checks what was dragged.
document.addEventListener("alpine:init", () => {
  Alpine.data("bands", () => ({
    init() {
      this.$root.addEventListener("pointerdown", (e) => this.grab(e));
      this.$root.addEventListener("keydown", (e) => this.nudge(e));
      this.$root.addEventListener(
        "input",
        (e) => e.target.name === "edge" && this.draw(e.target.form),
      );
      document.body.addEventListener("htmx:afterSwap", () => this.drawAll());
      this.drawAll();
    },
    drawAll() {
      this.$root.querySelectorAll("form.edges").forEach((f) => this.draw(f));
      if (this.last) this.$root.querySelector(this.last)?.focus();
    },
    scale(svg) {
      const low = Number(svg.dataset.low),
        high = Number(svg.dataset.high);
      return {
        low,
        high,
        to: (v) => 8 + Math.min(Math.max((v - low) / (high - low), 0), 1) * 244,
        from: (x) => low + ((x - 8) / 244) * (high - low),
      };
    },
    draw(form) {
      const svg = form.querySelector("svg.drag"),
        s = this.scale(svg);
      const at = [...form.querySelectorAll("input[name=edge]")].map((i, n) =>
        i.value === "" ? (n < 2 ? 8 : 252) : s.to(Number(i.value)),
      );
      const place = (cls, a, b) => {
        const r = svg.querySelector(cls);
        r.setAttribute("x", at[a]);
        r.setAttribute("width", Math.max(at[b] - at[a], 1));
      };
      place(".limit", 0, 3);
      place(".ideal", 1, 2);
      svg
        .querySelectorAll(".edge-grip")
        .forEach((g) => g.setAttribute("transform", `translate(${at[g.dataset.edge]} 0)`));
      svg.querySelectorAll(".piece").forEach((c, i) => {
        c.setAttribute("cx", s.to(Number(c.dataset.at)));
        c.setAttribute("cy", 8 - 2.5 * (i % 3));
      });
    },
    // An edge stays between its neighbours.
    put(form, edge, value) {
      const inputs = [...form.querySelectorAll("input[name=edge]")];
      const near = (n) => (inputs[n] && inputs[n].value !== "" ? Number(inputs[n].value) : null);
      const below = near(edge - 1),
        above = near(edge + 1);
      if (below !== null) value = Math.max(value, below);
      if (above !== null) value = Math.min(value, above);
      inputs[edge].value = String(Number(value.toPrecision(3)));
      this.draw(form);
    },
    send(form, edge) {
      this.last = `#${form.closest("article").id} [data-edge="${edge}"]`;
      htmx.trigger(form, "change");
    },
    grab(event) {
      const grip = event.target.closest(".edge-grip");
      if (!grip) return;
      event.preventDefault();
      grip.focus();
      const form = grip.closest("form"),
        svg = grip.closest("svg"),
        s = this.scale(svg),
        edge = Number(grip.dataset.edge);
      const move = (e) => {
        const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM().inverse());
        this.put(form, edge, s.from(p.x));
      };
      const stop = () => {
        removeEventListener("pointermove", move);
        this.send(form, edge);
      };
      addEventListener("pointermove", move);
      addEventListener("pointerup", stop, { once: true });
    },
    nudge(event) {
      const grip = event.target.closest?.(".edge-grip");
      const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (!grip || !way) return;
      event.preventDefault();
      const form = grip.closest("form"),
        s = this.scale(grip.closest("svg")),
        edge = Number(grip.dataset.edge);
      const input = form.querySelectorAll("input[name=edge]")[edge];
      this.put(
        form,
        edge,
        Number(input.value) + (way * (event.shiftKey ? 10 : 1) * (s.high - s.low)) / 200,
      );
      this.send(form, edge);
    },
  }));
});
