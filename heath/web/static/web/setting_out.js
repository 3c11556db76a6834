// Vessels of a composition, listed and set out on a drawing: dragged, or moved by the arrows. What
// is sent is one field of JSON, which is kept while it is typed like any other.

const WIDE = 640;
const FLOOR = 262; // where the foot of the foremost vessel stands in the drawing
const BACK = 46; // how far up the drawing the table reaches back
const DEEP = 40; // cm from front to back that this stands for
const SIZES = ["container_height_cm", "container_width_cm"];
const SINGLE = ["shelf_container", "container", ...SIZES, "made_of"]; // fields of one vessel alone
const NEW = { name: "", shelf: null, height_cm: 14, width_cm: 8, clear: false, colour: "" };

// Vessels side by side about the middle, with a gap of nearly half their mean width.
export function inARow(rows) {
  const gap = (0.45 * rows.reduce((sum, r) => sum + Number(r.width_cm), 0)) / (rows.length || 1);
  const whole = rows.reduce((sum, r) => sum + Number(r.width_cm) + gap, -gap);
  let at = -whole / 2;
  return rows.map((r) => {
    const x = at + Number(r.width_cm) / 2;
    at += Number(r.width_cm) + gap;
    return { ...r, x_cm: Math.round(x * 10) / 10 };
  });
}

// Pixels of the drawing to a centimetre, so that all of the composition is seen.
export function scaleOf(rows) {
  const reach = Math.max(
    30,
    ...rows.map((r) => Math.abs(Number(r.x_cm) || 0) + Number(r.width_cm) / 2 + 4),
  );
  const high = Math.max(24, ...rows.map((r) => Number(r.height_cm) || 0));
  return Math.min((WIDE / 2 - 12) / reach, (FLOOR - BACK - 12) / high);
}

// Where the foot of a vessel stands in the drawing.
export function footOf(row, per) {
  return {
    x: WIDE / 2 + (Number(row.x_cm) || 0) * per,
    y: FLOOR - ((Number(row.y_cm) || 0) / DEEP) * BACK,
  };
}

function vesselPath(row, per) {
  const half = (Number(row.width_cm) * per) / 2;
  const high = Number(row.height_cm) * per;
  const neck = high > 2.2 * half ? 0.55 : 0.86; // tall ones are drawn with a neck
  return (
    `M${-half * 0.8} 0C${-half * 1.05} ${-high * 0.3} ${-half * 1.05} ${-high * 0.55}` +
    ` ${-half * neck} ${-high * 0.8}L${-half * neck} ${-high}H${half * neck}` +
    `L${half * neck} ${-high * 0.8}C${half * 1.05} ${-high * 0.55} ${half * 1.05} ${-high * 0.3}` +
    ` ${half * 0.8} 0Z`
  );
}

function made(tag, attributes, parent) {
  const node = document.createElementNS("http://www.w3.org/2000/svg", tag);
  Object.entries(attributes).forEach(([k, v]) => node.setAttribute(k, v));
  parent.append(node);
  return node;
}

function supportPath(kind) {
  const edge = FLOOR + 14;
  const under = edge + 14;
  if (kind === "mantel") return `M20 ${edge}H620M20 ${under}H620M40 ${under}V300M600 ${under}V300`;
  const board = `M20 ${edge}H620M20 ${edge + 8}H620`;
  if (kind === "sill") return `${board}M60 ${edge}V30H580V${edge}M320 30V${edge}`;
  return `M60 ${FLOOR - BACK}H580L620 ${edge}H20ZM20 ${edge}V${edge + 12}H620V${edge}`;
}

class SetOut {
  constructor(root) {
    this.root = root;
    this.field = root.querySelector("input[name]");
    this.svg = root.querySelector("svg");
    this.most = Number(root.dataset.most);
    this.furthest = Number(root.dataset.furthest);
    this.form = this.field.form;
    this.read();
    this.draw();
    root.querySelector("[data-add]").addEventListener("click", () => this.add());
    root.querySelector("[data-row]").addEventListener("click", () => {
      this.rows = inARow(this.rows);
      this.kept(true);
    });
    root.querySelector("[data-rows]").addEventListener("input", (e) => this.typed(e));
    root.querySelector("[data-rows]").addEventListener("click", (e) => this.pressed(e));
    this.svg.addEventListener("pointerdown", (e) => this.grab(e));
    this.svg.addEventListener("keydown", (e) => this.nudge(e));
    // What was kept on this machine comes back into the field after the page is read.
    this.form.addEventListener("change", (e) => {
      if (e.target === this.form && this.field.value !== this.sent) {
        this.read();
        this.draw();
      }
      this.drawSupport();
      this.showByKind();
    });
    this.showByKind();
  }

  read() {
    try {
      this.rows = JSON.parse(this.field.value || "[]");
    } catch {
      this.rows = [];
    }
    this.sent = this.field.value;
  }

  // Written to the field; `whole` says whether the table is drawn anew as well.
  kept(whole) {
    this.field.value = this.sent = JSON.stringify(this.rows);
    this.draw(whole);
    this.field.dispatchEvent(new Event("input", { bubbles: true }));
  }

  add() {
    if (this.rows.length >= this.most) return;
    const one = this.root.querySelector("[data-shelf]").selectedOptions[0];
    const row = one.value
      ? {
          name: one.dataset.name,
          shelf: Number(one.value),
          height_cm: Number(one.dataset.height),
          width_cm: Number(one.dataset.width),
          clear: Boolean(one.dataset.clear),
          colour: "",
        }
      : { ...NEW };
    const right = Math.max(
      ...this.rows.map((r) => Number(r.x_cm) + Number(r.width_cm) / 2),
      -Number(row.width_cm) / 2 - 4,
    );
    this.rows.push({ ...row, x_cm: right + 4 + Number(row.width_cm) / 2, y_cm: 0 });
    const xs = this.rows.map((r) => Number(r.x_cm));
    const middle = (Math.min(...xs) + Math.max(...xs)) / 2;
    this.rows.forEach((r) => (r.x_cm = Math.round((Number(r.x_cm) - middle) * 10) / 10));
    this.kept(true);
    this.root.querySelector("[data-rows] tr:last-child input")?.focus();
  }

  typed(event) {
    const row = this.rows[Number(event.target.closest("tr").dataset.n)];
    const field = event.target.dataset.field;
    row[field] = event.target.type === "checkbox" ? event.target.checked : event.target.value;
    if (field !== "name" && field !== "clear" && field !== "colour") row.shelf = null;
    event.stopPropagation();
    this.kept(false);
  }

  pressed(event) {
    if (!event.target.closest("[data-remove]")) return;
    this.rows.splice(Number(event.target.closest("tr").dataset.n), 1);
    this.kept(true);
  }

  draw(table = true) {
    const group = this.svg.querySelector("[data-vessels]");
    const held = document.activeElement?.closest?.(".set-out-vessel")?.dataset.n;
    const per = scaleOf(this.rows);
    group.replaceChildren();
    this.rows
      .map((row, n) => [row, n])
      .sort((a, b) => (Number(b[0].y_cm) || 0) - (Number(a[0].y_cm) || 0))
      .forEach(([row, n]) => this.drawOne(group, row, n, per));
    if (held !== undefined) group.querySelector(`[data-n="${held}"]`)?.focus();
    this.svg.querySelector("[data-scale]").textContent = this.rows.length
      ? `${this.rows.length} vessels, ${Math.round(this.breadth())} cm across`
      : "No vessel yet. Add the first one below.";
    this.drawSupport();
    if (table) this.drawRows();
  }

  breadth() {
    const ends = this.rows.flatMap((r) => [
      Number(r.x_cm) - Number(r.width_cm) / 2,
      Number(r.x_cm) + Number(r.width_cm) / 2,
    ]);
    return Math.max(...ends) - Math.min(...ends);
  }

  drawOne(group, row, n, per) {
    const foot = footOf(row, per);
    const where = `${Math.round(row.x_cm)} cm from the middle`;
    const one = made(
      "g",
      {
        class: "set-out-vessel" + (row.clear ? " clear" : ""),
        "data-n": n,
        tabindex: 0,
        role: "button",
        "aria-label": `Vessel ${n + 1}, ${row.name || "without a name"}, ${where}`,
        transform: `translate(${foot.x} ${foot.y})`,
      },
      group,
    );
    const path = made("path", { d: vesselPath(row, per) }, one);
    if (row.colour) path.style.fill = row.colour;
    made("text", { y: 14, "text-anchor": "middle" }, one).textContent = n + 1;
  }

  drawSupport() {
    const kind = this.form.elements.support?.value || "table";
    this.svg.querySelector("[data-support]").setAttribute("d", supportPath(kind));
  }

  drawRows() {
    const body = this.root.querySelector("[data-rows]");
    body.replaceChildren();
    this.rows.forEach((row, n) => {
      const line = document.createElement("tr");
      line.dataset.n = n;
      const cell = (child, kind) => {
        const td = document.createElement("td");
        if (kind) td.className = kind;
        td.append(child);
        line.append(td);
      };
      const input = (field, type, words, value) => {
        const one = document.createElement("input");
        one.type = type;
        one.dataset.field = field;
        one.setAttribute("aria-label", `${words} of vessel ${n + 1}`);
        if (type === "checkbox") one.checked = Boolean(value);
        else one.value = value ?? "";
        if (type === "number") Object.assign(one, { min: 1, max: 300, step: 0.5 });
        return one;
      };
      cell(String(n + 1), "n");
      cell(input("name", "text", "Name", row.name));
      cell(input("height_cm", "number", "Height", row.height_cm), "n");
      cell(input("width_cm", "number", "Width", row.width_cm), "n");
      cell(input("clear", "checkbox", "Clear glass", row.clear));
      cell(input("colour", "color", "Colour", row.colour || "#b9b2a4"));
      const remove = document.createElement("button");
      Object.assign(remove, { type: "button", className: "quiet", textContent: "Take out" });
      remove.dataset.remove = "1";
      remove.setAttribute("aria-label", `Take out vessel ${n + 1}`);
      cell(remove);
      body.append(line);
    });
    const full = this.rows.length >= this.most;
    this.root.querySelector("[data-add]").disabled = full;
  }

  place(n, x, y) {
    const far = this.furthest;
    this.rows[n].x_cm = Math.round(Math.max(-far, Math.min(far, x)) * 2) / 2;
    this.rows[n].y_cm = Math.round(Math.max(0, Math.min(DEEP, y)) * 2) / 2;
  }

  grab(event) {
    const one = event.target.closest(".set-out-vessel");
    if (!one || event.button > 0) return;
    event.preventDefault();
    const n = Number(one.dataset.n);
    const per = scaleOf(this.rows); // the scale of the moment it was taken up
    const at = (e) => {
      const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(
        this.svg.getScreenCTM().inverse(),
      );
      return { x: p.x, y: p.y };
    };
    const from = at(event);
    const start = { x: Number(this.rows[n].x_cm) || 0, y: Number(this.rows[n].y_cm) || 0 };
    one.focus();
    const move = (e) => {
      const p = at(e);
      this.place(n, start.x + (p.x - from.x) / per, start.y - ((p.y - from.y) / BACK) * DEEP);
      const foot = footOf(this.rows[n], per);
      this.svg
        .querySelector(`[data-n="${n}"]`)
        .setAttribute("transform", `translate(${foot.x} ${foot.y})`);
    };
    const drop = () => {
      removeEventListener("pointermove", move);
      this.kept(false);
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", drop, { once: true });
    addEventListener("pointercancel", drop, { once: true });
  }

  nudge(event) {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[
      event.key
    ];
    const one = event.target.closest?.(".set-out-vessel");
    if (!way || !one) return;
    event.preventDefault();
    const n = Number(one.dataset.n);
    const far = event.shiftKey ? 5 : 1;
    const row = this.rows[n];
    this.place(n, Number(row.x_cm) + way[0] * far, Number(row.y_cm || 0) + way[1] * far);
    this.kept(false);
  }

  // Only the fields of the kind that is chosen are shown.
  showByKind() {
    const several = this.form.elements.kind?.value === "several vessels";
    const rowOf = (name) => this.form.querySelector(`[name="${name}"]`)?.closest(".field-row");
    SINGLE.forEach((name) => rowOf(name)?.toggleAttribute("hidden", several));
    rowOf("support")?.toggleAttribute("hidden", !several);
    this.root.closest(".field-row")?.toggleAttribute("hidden", !several);
    const words = {
      "hand-tied": ["Stems below the tie", "Width at the tie"],
      "on an edge": ["How far it falls", "Length of the edge"],
    }[this.form.elements.kind?.value] || ["Height", "Greatest width"];
    SIZES.forEach((name, k) => {
      const label = rowOf(name)?.querySelector("label");
      if (label) label.firstChild.textContent = words[k];
    });
  }
}

if (typeof document !== "undefined")
  document.querySelectorAll("[data-set-out]").forEach((root) => new SetOut(root));
