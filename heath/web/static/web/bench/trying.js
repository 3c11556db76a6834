// Trying a change on the picture: what is tried lives in this browser only; the server measures it.
// Part of the bench.
import { arrow, circlePath } from "./geometry.js";

export const trying = {
  tries: [],
  trying: false,
  asked: 0,

  triesKey() {
    return "tried:" + this.$root.dataset.piece;
  },
  startTrying() {
    this.tries = JSON.parse(localStorage.getItem(this.triesKey()) || "[]");
    this.askTried();
  },
  // The latest question wins: an answer that was overtaken is asked for anew.
  askTried() {
    if (this.tries.length) localStorage.setItem(this.triesKey(), JSON.stringify(this.tries));
    else localStorage.removeItem(this.triesKey());
    this.asked += 1;
    if (this.trying) return;
    this.trying = true;
    const asked = this.asked;
    this.say("Trying …");
    const seen = (e) => {
      if (e.detail.pathInfo?.requestPath !== this.$root.dataset.trial) return;
      if (e.detail.successful) this.say("Tried; nothing of it is kept");
      else if (e.detail.xhr.status === 400) {
        this.tries = [];
        localStorage.removeItem(this.triesKey());
        this.say("This trial could not be understood. Start over.", true);
      } else this.say("No answer; try once more", true);
    };
    document.body.addEventListener("htmx:afterRequest", seen);
    htmx
      .ajax("POST", this.$root.dataset.trial, {
        target: "#tried-column",
        swap: "innerHTML",
        values: { changes: JSON.stringify(this.tries) },
      })
      .finally(() => {
        document.body.removeEventListener("htmx:afterRequest", seen);
        this.trying = false;
        if (this.asked !== asked) this.askTried();
      });
  },
  attempt(wish) {
    const before = this.tries[this.tries.length - 1];
    const again =
      before &&
      before.act === "move" &&
      wish.act === "move" &&
      Math.hypot(before.to[0] - wish.at[0], before.to[1] - wish.at[1]) < 2;
    if (wish.act === "swap") this.tries = this.tries.filter((t) => t.act !== "swap");
    if (again) this.tries[this.tries.length - 1] = { ...before, to: wish.to };
    else this.tries = [...this.tries, wish].slice(-20);
    this.askTried();
  },
  // A press on the picture: the end of a stem is led down its line, a bloom carried to another
  // place.
  pressTry(event) {
    const svg = event.target.closest("#tried");
    const end = event.target.closest('[data-end="tip"]');
    const bloom = event.target.closest(".bloom");
    if (!svg || event.button > 0 || (!end && !bloom)) return;
    event.preventDefault();
    const from = this.point(event);
    const trace = svg.querySelector(".trace");
    trace.setAttribute("class", "trace ring");
    const at = end ? this.run(end.closest(".stem")).tip : this.middle(bloom);
    const foot = end ? this.run(end.closest(".stem")).foot : null;
    const radius = bloom ? Number(bloom.dataset.r) : 0;
    (bloom || end.closest(".stem")).focus({ preventScroll: true });
    svg.setPointerCapture(event.pointerId);
    let to = null;
    this.drag(
      svg,
      (e) => {
        const p = this.point(e);
        if (Math.hypot(p.x - from.x, p.y - from.y) < 0.005 * svg.viewBox.baseVal.height) return;
        to = bloom ? { x: at[0] + p.x - from.x, y: at[1] + p.y - from.y } : p;
        const arrow = `M${at.join(" ")}L${to.x} ${to.y}`;
        trace.setAttribute(
          "d",
          bloom
            ? arrow + circlePath(to, radius)
            : `M${foot.join(" ")}L${to.x} ${to.y}` +
                circlePath(to, 0.012 * svg.viewBox.baseVal.height),
        );
      },
      () => {
        if (to)
          this.attempt({
            act: end ? "cut" : event.shiftKey ? "another" : "move",
            at,
            to: [Math.max(0, to.x), Math.max(0, to.y)],
          });
      },
    );
  },
  swapContainer(event) {
    const which = Number(event.target.value);
    if (which) this.attempt({ act: "swap", which });
    else {
      this.tries = this.tries.filter((t) => t.act !== "swap");
      this.askTried();
    }
  },
  pressTried(event) {
    const drop = event.target.closest("[data-drop]")?.dataset.drop;
    if (drop === undefined) return;
    this.tries = drop === "all" ? [] : this.tries.filter((_, i) => i !== Number(drop));
    this.$refs.swap.value = String(this.tries.find((t) => t.act === "swap")?.which || "");
    this.askTried();
  },
  // Without a mouse: arrows carry the chosen bloom, the arrow down cuts the chosen stem.
  keyTry(event) {
    const bloom = event.target.closest("#tried .bloom");
    const stem = event.target.closest("#tried .stem");
    const unit = (this.$refs.handles.viewBox.baseVal.height / 1000) * (event.shiftKey ? 40 : 8);
    const step = arrow(event.key);
    if (bloom && step) {
      const at = this.middle(bloom);
      this.attempt({ act: "move", at, to: at.map((v, i) => Math.max(0, v + step[i] * unit)) });
    } else if (bloom && ["Delete", "Backspace"].includes(event.key))
      this.attempt({ act: "out", at: this.middle(bloom) });
    else if (bloom && event.key.toLowerCase() === "d") {
      const at = this.middle(bloom);
      this.attempt({ act: "another", at, to: [at[0] + 2.2 * Number(bloom.dataset.r), at[1]] });
    } else if (stem && event.key === "ArrowDown")
      this.attempt({ act: "cut", at: this.run(stem).tip, cm: event.shiftKey ? 5 : 1 });
    else return false;
    event.preventDefault();
    return true;
  },
};
