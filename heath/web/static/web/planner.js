// A plan's tips, dragged or moved by the arrows: the server works out what follows, while they move
// and when they are let go.
document.addEventListener("alpine:init", () => {
  Alpine.data("plan", () => ({
    init() {
      this.$root.addEventListener("pointerdown", (e) => this.grab(e));
      this.$root.addEventListener("keydown", (e) => this.nudge(e));
    },
    svg() {
      return this.$root.querySelector(".plan-drawing");
    },
    scale() {
      const d = this.svg().dataset;
      const per = Number(d.perCm);
      // What lies along an edge springs from under its tip, all else from the middle of the rim.
      const reach = Number(d.edge || 0) * per;
      return { middle: Number(d.middle), rim: Number(d.rim), per, reach };
    },
    at(tip) {
      const [x, y] = tip
        .getAttribute("transform")
        .match(/-?[\d.]+/g)
        .map(Number);
      return { x, y };
    },
    draw(tip, x, y) {
      const s = this.scale();
      tip.setAttribute("transform", `translate(${x} ${y})`);
      const line = [...this.svg().querySelectorAll(".stem")].find(
        (l) => l.dataset.stem === tip.dataset.stem,
      );
      const foot = s.middle + Math.min(Math.max(x - s.middle, -s.reach), s.reach);
      line.setAttribute("d", `M${foot} ${s.rim}L${x} ${y}`);
    },
    // While a tip moves only the figures are taken from the answer; the drawing stays under the
    // hand.
    async ask(tip, keep) {
      const { x, y } = this.at(tip),
        s = this.scale(),
        name = tip.dataset.stem;
      const number = (this.asked = (this.asked || 0) + 1);
      const body = new URLSearchParams({
        stem: name,
        side: ((x - s.middle) / s.per).toFixed(2),
        up: ((s.rim - y) / s.per).toFixed(2),
      });
      if (keep) body.set("keep", "1");
      const said = document.getElementById("plan-fault");
      let answer;
      try {
        answer = await fetch(this.$root.dataset.move, {
          method: "POST",
          body,
          headers: JSON.parse(document.body.getAttribute("hx-headers")),
        });
      } catch {
        said.textContent =
          "The server cannot be reached. The tip is not kept: move it again in a moment.";
        said.hidden = false;
        return;
      }
      const text = await answer.text();
      if (number !== this.asked) return;
      said.hidden = answer.ok;
      if (!answer.ok)
        said.textContent =
          answer.status === 400 ? text : "That could not be kept. Load the page again.";
      else {
        const part = keep ? "#plan-live" : "#plan-answers";
        const fresh = new DOMParser().parseFromString(text, "text/html").querySelector(part);
        this.$root.querySelector(part).replaceWith(fresh);
        this.number();
        if (keep)
          [...this.svg().querySelectorAll(".tip")].find((t) => t.dataset.stem === name)?.focus();
      }
    },
    // Stems are numbered as they are cut, the longest first: that may change while one is drawn
    // out.
    number() {
      this.svg()
        .querySelectorAll(".tip")
        .forEach((t) => {
          const row = [...this.$root.querySelectorAll("tr[data-stem]")].find(
            (r) => r.dataset.stem === t.dataset.stem,
          );
          t.querySelector("text").textContent = row.dataset.number;
        });
    },
    grab(event) {
      const tip = event.target.closest(".tip");
      if (!tip || tip.tabIndex < 0) return;
      event.preventDefault();
      tip.focus();
      let last = 0,
        moved = false;
      const move = (e) => {
        const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(
          this.svg().getScreenCTM().inverse(),
        );
        this.draw(tip, Math.min(Math.max(p.x, 8), 552), Math.min(Math.max(p.y, 8), 592));
        moved = true;
        if (e.timeStamp - last > 90) {
          last = e.timeStamp;
          this.ask(tip, false);
        }
      };
      const stop = () => {
        removeEventListener("pointermove", move);
        if (moved) this.ask(tip, true);
      };
      addEventListener("pointermove", move);
      addEventListener("pointerup", stop, { once: true });
      addEventListener("pointercancel", stop, { once: true });
    },
    nudge(event) {
      const tip = event.target.closest?.(".tip");
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[
        event.key
      ];
      if (!tip || !way) return;
      event.preventDefault();
      const { x, y } = this.at(tip),
        step = this.scale().per * (event.shiftKey ? 5 : 0.5);
      this.draw(tip, x + way[0] * step, y + way[1] * step);
      clearTimeout(this.later);
      this.later = setTimeout(() => this.ask(tip, true), 250);
    },
  }));
});
