// What was changed goes to the server one at a time, in order, and is kept until it has arrived.
import { afterStatus, notSaved, queued, restAfter } from "./outbox.js";

export const queue = {
  queue: [],
  busy: false,
  answered: { at: 0, rest: 0 },
  again: 0,
  // Requests that change the piece: all so far, and those not yet answered.
  changes: 0,
  changing: 0,
  readAt: 0,

  newGesture() {
    return [...crypto.getRandomValues(new Uint8Array(12))]
      .map((b) => b.toString(16).padStart(2, "0"))
      .join("");
  },

  store() {
    return "corrections:" + this.$root.dataset.piece;
  },

  // What was done to the piece when this page last saw it.
  seen() {
    return document.getElementById("places").dataset.seen;
  },

  make(change) {
    this.send(this.$root.dataset.change, {
      gesture: this.newGesture(),
      change: JSON.stringify(change),
    });
  },

  // One request at a time, in order; a newer place of the same move takes the older one's turn.
  send(to, values) {
    this.changes += 1;
    this.queue = queued(this.queue, { to, values }, this.busy);
    this.keep();
    this.work();
  },

  keep() {
    if (this.queue.length) localStorage.setItem(this.store(), JSON.stringify(this.queue));
    else localStorage.removeItem(this.store());
  },

  work() {
    clearTimeout(this.again);
    if (this.busy || !this.queue.length) return;
    const { to, values } = this.queue[0];
    // A handle on its way rests between two moves; one that was let go is sent at once.
    const wait = this.answered.at + this.answered.rest - performance.now();
    if ("lens" in values && wait > 0) {
      this.again = setTimeout(() => this.work(), wait);
      return;
    }
    this.busy = true;
    this.say("Saving …");
    const failed = (status) => {
      this.say(notSaved(status), true);
      setTimeout(() => {
        this.busy = false;
        this.work();
      }, 2000);
    };
    if ("lens" in values) {
      // A handle on its way: only figures come back.
      const data = new FormData();
      Object.entries({ ...values, seen: this.seen() }).forEach(([k, v]) => data.append(k, v));
      const began = performance.now();
      fetch(to, { method: "POST", body: data, headers: { "X-CSRFToken": this.$root.dataset.csrf } })
        .then((answer) => {
          const at = performance.now();
          this.answered = { at, rest: restAfter(at - began, this.answered.rest) };
          return this.arrived(answer, failed);
        })
        .catch(() => failed(0));
      return;
    }
    let status = 0;
    const seen = (e) => {
      if (e.detail.pathInfo?.requestPath === to) status = e.detail.xhr.status;
    };
    document.body.addEventListener("htmx:afterRequest", seen);
    htmx
      .ajax("POST", to, {
        target: "#reading",
        swap: "innerHTML",
        values: { ...values, seen: this.seen() },
      })
      .then(() => {
        const next = afterStatus(status);
        if (next === "done") this.done();
        else if (next === "refused") this.refused();
        else failed(status);
      })
      .catch(() => failed(0))
      .finally(() => document.body.removeEventListener("htmx:afterRequest", seen));
  },

  // What came back for a handle on its way: figures, or nothing when a newer place has overtaken
  // it.
  async arrived(answer, failed) {
    const next = afterStatus(answer.status);
    if (next === "refused") return this.refused();
    if (next !== "done") return failed(answer.status);
    const kind = answer.headers.get("content-type") || "";
    if (kind.startsWith("application/json")) this.onTheWay(await answer.json());
    return this.done();
  },

  onTheWay(found) {
    const put = (within, what, words) => {
      const on = within?.querySelector(what);
      if (on && on.textContent !== words) on.textContent = words;
    };
    put(document, "#score", found.score);
    put(document, ".next-cut p", found.next);
    Object.entries(found.groups).forEach(([family, mark]) => {
      put(document, `.group-mark[data-family="${family}"]`, mark);
      put(document, `.family-marks [data-family="${family}"]`, mark);
    });
    Object.entries(found.lines).forEach(
      ([code, [figure, spread, mark, state, band, advice, sums, seen]]) => {
        const line = document.getElementById("line-" + code);
        put(line, ".figure", figure);
        put(line, ".spread", spread);
        put(line, ".mark-of", mark);
        put(line, ".advice-words", advice);
        put(line, ".seen", seen);
        put(line, ".sums", sums);
        line?.querySelector(".mark-of").setAttribute("class", "mark-of " + state);
        const drawn = line?.querySelector(".band");
        if (drawn && band) drawn.outerHTML = band;
      },
    );
    Object.entries(found.lenses).forEach(([family, marks]) => {
      const group = document.querySelector(`#evidence g[data-family="${family}"]`);
      if (group) group.innerHTML = marks;
    });
  },

  done() {
    this.queue.shift();
    this.busy = false;
    this.keep();
    if (this.queue.length) this.work();
    else {
      document.querySelector("#layers .trace").setAttribute("d", "");
      this.place();
      this.chooseAgain();
      this.say(
        "All saved " +
          new Date().toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" }),
      );
    }
  },

  refused() {
    this.done();
    this.say("That could not be kept. Load the page again.", true);
  },

  flush() {
    this.queue.forEach(({ to, values }) => {
      const data = new FormData();
      Object.entries(values).forEach(([k, v]) => data.append(k, v));
      data.append("csrfmiddlewaretoken", this.$root.dataset.csrf);
      navigator.sendBeacon(to, data);
    });
  },

  say(words, trouble = false) {
    const saved = document.getElementById("saved");
    saved.textContent = words;
    saved.classList.toggle("trouble", trouble);
  },
};
