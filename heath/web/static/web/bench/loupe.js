// The loupe shows what lies under the pointer, beside it.
import { loupeView } from "./geometry.js";

export const loupe = {
  loupeOn: false,

  turnLoupe() {
    this.loupeOn = !this.loupeOn;
    this.$refs.loupeButton.setAttribute("aria-pressed", String(this.loupeOn));
    if (!this.loupeOn) this.away();
  },

  hover(event) {
    if (this.loupeOn && !this.held) this.magnify(this.point(event));
  },

  magnify(p) {
    const stand = this.$refs.stand.getBoundingClientRect();
    const view = loupeView(p, this.$refs.handles.viewBox.baseVal, stand, this.zoom);
    const loupe = this.$refs.loupe;
    loupe.setAttribute("viewBox", view.viewBox);
    loupe.querySelectorAll("path").forEach((path) => path.setAttribute("d", view.cross));
    loupe.style.left = `${view.left}px`;
    loupe.style.top = `${view.top}px`;
    loupe.classList.add("shown");
  },

  away() {
    this.$refs.loupe.classList.remove("shown");
  },
};
