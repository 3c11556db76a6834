// Keys: which part of the bench takes one.
import { arrow } from "./geometry.js";
import { meaning, onBloom } from "./keymap.js";

const TOGETHER = ["remove", "role"]; // what may be done to a group of blooms at once

export const keys = {
  keysShown: false,

  // A second undoing waits for the first one's answer, which brings the button anew.
  byKey(named) {
    const button = document.querySelector('[data-key="' + named + '"]');
    if (!button?.classList.contains("htmx-request")) button?.click();
    else if (named === "undo")
      document.body.addEventListener("htmx:afterSettle", () => this.byKey(named), { once: true });
  },

  turnKeys() {
    this.keysShown = !this.keysShown;
  },

  key(event) {
    const on = event.target;
    if (this.keyPhrase(event) || on.closest("input, textarea, select")) return;
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (this.keyPicture(event)) event.preventDefault();
    else if (!this.keyViewing(event)) this.keyAnywhere(event);
  },

  // What lies on the picture takes a key first.
  keyPicture(event) {
    return (
      this.keyHandle(event) ||
      (this.onTrial && this.keyTry(event)) ||
      this.keyBloom(event) ||
      this.keyCarried(event) ||
      this.keyStem(event)
    );
  },

  keyHandle(event) {
    const handle = event.target.closest(".handle");
    if (handle && event.key === "Enter" && !event.repeat) {
      this.byKey("confirm");
      return true;
    }
    if (handle?.dataset.vessel && (event.key === "Delete" || event.key === "Backspace")) {
      this.make({ without: Number(handle.dataset.vessel) });
      return true;
    }
    if (!handle || !arrow(event.key)) return false;
    this.nudge(handle, event);
    return true;
  },

  keyBloom(event) {
    const meant = event.target.closest(".bloom") || this.chosen?.others;
    const act = meant && this.chosen && onBloom(event.key);
    if (!act || (this.chosen.others && !TOGETHER.includes(act[0]))) return false;
    this.actOn(...act);
    return true;
  },

  // The button of the tool in hand keeps the focus; keys pressed on it are meant for the picture.
  keyCarried(event) {
    if (this.tool === "handles" || this.onTrial) return false;
    if (!arrow(event.key) && event.key !== " ") return false;
    const elsewhere = event.target.closest("button, a, summary, .bloom, .stem");
    if (elsewhere && elsewhere.dataset.tool !== this.tool) return false;
    this.carry(event);
    return true;
  },

  keyStem(event) {
    const stem = event.target.closest("#layers .stem");
    if (!stem) return false;
    const places = this.run(stem);
    if (event.key === "Delete" || event.key === "Backspace") {
      this.make({ line: "drop", at: places.tip });
      return true;
    }
    const step = arrow(event.key);
    if (!step) return false;
    const unit = (this.$refs.handles.viewBox.baseVal.height / 1000) * (event.shiftKey ? 20 : 4);
    const tip = places.tip.map((v, i) => Math.max(0, v + step[i] * unit));
    this.make({ line: "bend", at: places.tip, ...places, tip });
    return true;
  },

  // H goes to the first handle; the trial's key leaves it again.
  keyTool(tool) {
    this.takeUp(tool === "try" && this.onTrial ? "handles" : tool);
    if (tool === "handles") this.$refs.handles.querySelector(".handle").focus();
  },

  keyAnywhere(event) {
    const found = meaning(event.key);
    if (!found) return;
    const { kind, value } = found;
    if (kind === "lens") this.turnTo(value);
    else if (kind === "tool") this.keyTool(value);
    else if (kind === "breadth") {
      this.$refs.breadth.value = this.breadth + value;
      this.setBreadth();
    } else if (kind === "loupe") this.turnLoupe();
    else if (kind === "eye") this.turnEye();
    else if (kind === "button" && !event.repeat) this.byKey(value);
    else if (kind === "leave") {
      this.keysShown = false;
      this.takeUp("handles");
    }
  },
};
