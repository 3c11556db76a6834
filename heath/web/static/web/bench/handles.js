// The handles: dragged by pointer, moved by arrow keys, put where the server has them.
import { arrow } from "./geometry.js";

export const handles = {
  held: null,
  last: { handle: "", at: 0, gesture: "" },
  resting: 0,

  where(handle) {
    const m = handle.transform.baseVal.getItem(0).matrix;
    return { x: m.e, y: m.f };
  },

  put(handle, p) {
    handle.transform.baseVal.getItem(0).setTranslate(p.x, p.y);
  },

  grab(event) {
    if (event.button > 0) return;
    const handle = event.currentTarget;
    event.preventDefault();
    handle.focus();
    handle.setPointerCapture(event.pointerId);
    handle.classList.add("held");
    const from = this.point(event);
    const start = this.where(handle);
    const gesture = this.newGesture();
    this.held = handle;
    let to = null;
    const move = (e) => {
      const p = this.point(e);
      to = { x: start.x + p.x - from.x, y: start.y + p.y - from.y };
      this.put(handle, to);
      this.magnify(to);
      this.send(this.$root.dataset.move, {
        handle: handle.dataset.handle,
        gesture,
        lens: this.$refs.stand.dataset.lens,
        ...to,
      });
    };
    const drop = () => {
      this.away();
      handle.classList.remove("held");
      this.held = null;
      // Main lines start at the rim: they are drawn anew once the handle rests.
      if (to)
        this.send(this.$root.dataset.move, {
          handle: handle.dataset.handle,
          gesture,
          rests: 1,
          ...to,
        });
      handle.removeEventListener("pointermove", move);
      handle.removeEventListener("pointerup", drop);
      handle.removeEventListener("pointercancel", drop);
    };
    handle.addEventListener("pointermove", move);
    handle.addEventListener("pointerup", drop);
    handle.addEventListener("pointercancel", drop);
  },

  nudge(handle, event) {
    const unit = this.$refs.handles.viewBox.baseVal.height / 1000;
    const far = event.shiftKey ? 10 : 1;
    const step = arrow(event.key);
    const now = this.where(handle);
    const to = { x: now.x + step[0] * unit * far, y: now.y + step[1] * unit * far };
    this.put(handle, to);
    const name = handle.dataset.handle;
    // Presses that follow closely are one move, undone as one.
    if (this.last.handle !== name || Date.now() - this.last.at > 900)
      this.last.gesture = this.newGesture();
    this.last = { handle: name, at: Date.now(), gesture: this.last.gesture };
    const move = { handle: name, gesture: this.last.gesture, ...to };
    this.send(this.$root.dataset.move, { ...move, lens: this.$refs.stand.dataset.lens });
    this.rest();
  },

  // After the last press the column is read anew; nothing is written by that, so an undo in between
  // stands.
  rest() {
    clearTimeout(this.resting);
    this.resting = setTimeout(() => {
      if (this.busy || this.queue.length || this.held || this.changing || this.typing())
        return this.rest();
      this.readAt = this.changes;
      htmx.ajax("GET", this.$root.dataset.reading, { target: "#reading", swap: "innerHTML" });
    }, 400);
  },

  // Somebody writes in the column: it is not taken from under their hands.
  typing() {
    return Boolean(document.activeElement?.closest("#reading form"));
  },

  // Handles follow the server's answer, save the one in hand.
  place() {
    const places = document.getElementById("places");
    if (!places || this.busy || this.held) return;
    const rows = places.dataset.places.split(";").filter(Boolean);
    // A vessel was added or taken out: its handles are drawn with the page.
    if (rows.length !== this.$refs.handles.querySelectorAll("[data-handle]").length) {
      location.reload();
      return;
    }
    rows.forEach((row) => {
      const [name, x, y, moved] = row.split(",");
      const handle = this.$refs.handles.querySelector('[data-handle="' + name + '"]');
      this.put(handle, { x: Number(x), y: Number(y) });
      handle.classList.toggle("moved", moved === "1");
    });
  },
};
