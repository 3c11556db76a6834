// The bench: handles follow the pointer here; every figure comes from the server.
document.addEventListener("alpine:init", () => {
  Alpine.data("bench", () => ({
    keysShown: false,
    busy: false,
    waiting: null,
    held: null,
    last: { handle: "", at: 0, gesture: "" },

    init() {
      this.show(localStorage.getItem("lens") || "proportion");
      document.body.addEventListener("htmx:afterSwap", () => this.place());
      const left = JSON.parse(localStorage.getItem(this.store()) || "null");
      if (left) this.send(left); // a move that the closed page could not bring home
      addEventListener("pagehide", () => this.flush());
    },

    store() {
      return "move:" + this.$root.dataset.piece;
    },
    newGesture() {
      return [...crypto.getRandomValues(new Uint8Array(12))].map((b) => b.toString(16).padStart(2, "0")).join("");
    },

    look(event) {
      this.show(event.target.dataset.lens);
    },
    show(lens) {
      this.$refs.stand.dataset.lens = lens;
      localStorage.setItem("lens", lens);
      this.$root.querySelectorAll(".lenses button").forEach((b) => b.setAttribute("aria-pressed", String(b.dataset.lens === lens)));
    },
    turnKeys() {
      this.keysShown = !this.keysShown;
    },

    point(event) {
      const svg = this.$refs.handles;
      const inverse = svg.getScreenCTM().inverse();
      const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(inverse);
      const box = svg.viewBox.baseVal;
      return { x: Math.min(Math.max(p.x, 0), box.width), y: Math.min(Math.max(p.y, 0), box.height) };
    },
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
      const move = (e) => {
        const p = this.point(e);
        const to = { x: start.x + p.x - from.x, y: start.y + p.y - from.y };
        this.put(handle, to);
        this.send({ handle: handle.dataset.handle, gesture, ...to });
      };
      const drop = () => {
        handle.classList.remove("held");
        this.held = null;
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
      const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      const now = this.where(handle);
      const to = { x: now.x + step[0] * unit * far, y: now.y + step[1] * unit * far };
      this.put(handle, to);
      const name = handle.dataset.handle;
      // Presses that follow closely are one move, undone as one.
      if (this.last.handle !== name || Date.now() - this.last.at > 900) this.last.gesture = this.newGesture();
      this.last = { handle: name, at: Date.now(), gesture: this.last.gesture };
      this.send({ handle: name, gesture: this.last.gesture, ...to });
    },

    // One request at a time; the newest place waits, older ones are dropped.
    send(values) {
      localStorage.setItem(this.store(), JSON.stringify(values));
      if (this.busy) {
        this.waiting = values;
        return;
      }
      this.busy = true;
      this.say("Saving …");
      const failed = () => {
        this.say("Not saved yet; trying again", true);
        setTimeout(() => this.done(values), 2000);
      };
      let status = 0;
      const seen = (e) => {
        if (e.detail.pathInfo?.requestPath === this.$root.dataset.move) status = e.detail.xhr.status;
      };
      document.body.addEventListener("htmx:afterRequest", seen);
      htmx
        .ajax("POST", this.$root.dataset.move, { target: "#reading", swap: "innerHTML", values })
        .then(() => (status === 200 ? this.done(null) : failed()))
        .catch(failed)
        .finally(() => document.body.removeEventListener("htmx:afterRequest", seen));
    },
    done(again) {
      this.busy = false;
      const next = this.waiting || again;
      this.waiting = null;
      if (next) {
        this.send(next);
      } else {
        localStorage.removeItem(this.store());
        this.say("All saved " + new Date().toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" }));
      }
    },
    flush() {
      const left = localStorage.getItem(this.store());
      if (!left) return;
      const data = new FormData();
      Object.entries(JSON.parse(left)).forEach(([k, v]) => data.append(k, v));
      data.append("csrfmiddlewaretoken", this.$root.dataset.csrf);
      navigator.sendBeacon(this.$root.dataset.move, data);
    },
    say(words, trouble = false) {
      const saved = document.getElementById("saved");
      saved.textContent = words;
      saved.classList.toggle("trouble", trouble);
    },

    // Handles follow the server's answer, save the one in hand.
    place() {
      const places = document.getElementById("places");
      if (!places || this.busy || this.held) return;
      places.dataset.places.split(";").filter(Boolean).forEach((row) => {
        const [name, x, y, moved] = row.split(",");
        const handle = this.$refs.handles.querySelector('[data-handle="' + name + '"]');
        this.put(handle, { x: Number(x), y: Number(y) });
        handle.classList.toggle("moved", moved === "1");
      });
    },

    key(event) {
      const on = event.target;
      if (event.ctrlKey || event.metaKey || event.altKey || on.closest("input, textarea, select")) return;
      const handle = on.closest(".handle");
      if (handle && event.key.startsWith("Arrow")) {
        event.preventDefault();
        this.nudge(handle, event);
        return;
      }
      const lens = { 1: "proportion", 2: "balance", 3: "focal", 4: "colour", 5: "line", 6: "finish", 0: "all" }[event.key];
      const named = { a: "accept", u: "undo", n: "next", p: "previous" }[event.key.toLowerCase()];
      if (lens) this.show(lens);
      else if (named) document.querySelector('[data-key="' + named + '"]')?.click();
      else if (event.key.toLowerCase() === "k") this.turnKeys();
      else if (event.key === "Escape") this.keysShown = false;
    },
  }));
});
