// The bench: handles follow the pointer here; every figure comes from the server.
import { blooms } from "./blooms.js";
import { within } from "./geometry.js";
import { handles } from "./handles.js";
import { keys } from "./keys.js";
import { layers } from "./layers.js";
import { loupe } from "./loupe.js";
import { mixed } from "./mixed.js";
import { queue } from "./queue.js";
import { tinting } from "./tinting.js";
import { tools } from "./tools.js";
import { trying } from "./trying.js";
import { viewing } from "./viewing.js";

const bench = {
  init() {
    this.show(localStorage.getItem("lens") || "proportion");
    this.breadth = Number(localStorage.getItem("breadth")) || 8;
    this.$refs.breadth.value = this.breadth;
    document.body.addEventListener("htmx:afterSwap", (e) => {
      this.place();
      this.showLayers();
      if (e.target.id === "reading") this.seeAs(this.$refs.stand.dataset.eye || "");
      if (e.target.id === "reading" && !this.queue.length) this.showOpened();
      if (e.target.id === "reading" && this.laidOver) this.fetchLaid();
    });
    document.body.addEventListener("htmx:afterSettle", () => this.chooseAgain());
    const changes = (e) => e.detail.requestConfig.verb !== "get";
    document.body.addEventListener("htmx:beforeSend", (e) => {
      if (!changes(e)) return;
      this.changes += 1;
      this.changing += 1;
    });
    document.body.addEventListener(
      "htmx:afterRequest",
      (e) => changes(e) && (this.changing = Math.max(0, this.changing - 1)),
    );
    // A column that was read before something changed would show the piece as it was; one that
    // somebody writes in meanwhile is read anew afterwards.
    document.body.addEventListener("htmx:beforeSwap", (e) => {
      if (
        changes(e) ||
        e.detail.pathInfo.requestPath !== this.$root.dataset.reading ||
        (this.readAt === this.changes && !this.typing())
      )
        return;
      e.detail.shouldSwap = false;
      this.rest();
    });
    this.$refs.stand.addEventListener("pointerdown", (e) => this.press(e));
    this.$refs.stand.addEventListener("focusin", (e) => {
      const bloom = e.target.closest(".bloom");
      if (bloom && this.tool === "blooms") this.choose(bloom);
    });
    // What the closed page could not bring home.
    this.queue = JSON.parse(localStorage.getItem(this.store()) || "[]");
    if (this.queue.length) this.work();
    addEventListener("pagehide", () => this.flush());
    this.initViewing();
  },

  point(event) {
    const svg = document.getElementById("layers"); // always drawn; handles may be hidden
    const inverse = svg.getScreenCTM().inverse();
    const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(inverse);
    const box = svg.viewBox.baseVal;
    return within(p, box);
  },
};

const PARTS = [queue, handles, tools, blooms, layers, loupe, viewing, tinting, trying, keys, bench];

document.addEventListener("alpine:init", () => {
  Alpine.data("bench", () => mixed(...PARTS));
});
