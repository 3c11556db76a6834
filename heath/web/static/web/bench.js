// The bench: handles follow the pointer here; every figure comes from the server.
document.addEventListener("alpine:init", () => {
  Alpine.data("bench", () => ({
    ...window.heathTrying,
    ...window.heathTinting,
    ...window.heathViewing,
    keysShown: false,
    tool: "handles",
    breadth: 8, // thousandths of the picture's height, half of the brush
    chosen: null,
    loupeOn: false,
    eyeOn: false,
    queue: [],
    busy: false,
    held: null,
    carried: null,
    tip: null, // of a stem that is drawn by keys
    last: { handle: "", at: 0, gesture: "" },
    resting: 0,
    // Requests that change the piece: all so far, and those not yet answered.
    changes: 0,
    changing: 0,
    readAt: 0,

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
      document.body.addEventListener("htmx:afterRequest", (e) => changes(e) && (this.changing = Math.max(0, this.changing - 1)));
      // A column that was read before something changed would show the piece as it was.
      document.body.addEventListener("htmx:beforeSwap", (e) => {
        if (changes(e) || e.detail.pathInfo.requestPath !== this.$root.dataset.reading || this.readAt === this.changes) return;
        e.detail.shouldSwap = false;
        this.rest();
      });
      this.$refs.stand.addEventListener("pointerdown", (e) => this.press(e));
      this.$refs.stand.addEventListener("focusin", (e) => {
        const bloom = e.target.closest(".bloom");
        if (bloom && this.tool === "blooms") this.choose(bloom);
      });
      this.queue = JSON.parse(localStorage.getItem(this.store()) || "[]"); // what the closed page could not bring home
      if (this.queue.length) this.work();
      addEventListener("pagehide", () => this.flush());
      this.initViewing();
    },
    get onTrial() {
      return this.tool === "try";
    },
    get painting() {
      return this.tool === "petal" || this.tool === "leaf";
    },
    // What is laid over gives way where a tool has much to say.
    get laysOver() {
      return !this.painting && !this.onTrial;
    },
    get brushing() {
      return this.tool === "plant" || this.tool === "not-plant" || this.painting;
    },
    get drawing() {
      return this.tool === "container";
    },
    get spotted() {
      return this.tool === "remark" && Boolean(this.spot);
    },
    get chosenWords() {
      return this.chosen ? this.chosen.words : "";
    },

    // What was done to the piece when this page last saw it.
    seen() {
      return document.getElementById("places").dataset.seen;
    },
    store() {
      return "corrections:" + this.$root.dataset.piece;
    },
    newGesture() {
      return [...crypto.getRandomValues(new Uint8Array(12))].map((b) => b.toString(16).padStart(2, "0")).join("");
    },

    opened(event) {
      if (event.target.matches("details.line")) this.showOpened(event.target.open ? event.target : null);
    },
    // What the rule that stands open rests on, drawn over the photograph.
    showOpened(line) {
      const one = line || [...this.$root.querySelectorAll("details.line[open]")].pop();
      if (one) htmx.ajax("GET", one.dataset.evidence, { target: "#opened", swap: "outerHTML" });
      else document.getElementById("opened").replaceChildren();
    },

    // A second undoing waits for the first one's answer, which brings the button anew.
    byKey(named) {
      const button = document.querySelector('[data-key="' + named + '"]');
      if (!button?.classList.contains("htmx-request")) button?.click();
      else if (named === "undo") document.body.addEventListener("htmx:afterSettle", () => this.byKey(named), { once: true });
    },

    look(event) {
      this.turnTo(event.target.dataset.lens);
    },
    turnTo(lens) {
      this.show(lens);
      this.$root.querySelector(`#reading [data-of="${lens}"]`)?.scrollIntoView({ block: "start" });
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
      const svg = document.getElementById("layers"); // always drawn; handles may be hidden
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
      let to = null;
      const move = (e) => {
        const p = this.point(e);
        to = { x: start.x + p.x - from.x, y: start.y + p.y - from.y };
        this.put(handle, to);
        this.magnify(to);
        this.send(this.$root.dataset.move, { handle: handle.dataset.handle, gesture, lens: this.$refs.stand.dataset.lens, ...to });
      };
      const drop = () => {
        this.away();
        handle.classList.remove("held");
        this.held = null;
        // Main lines start at the rim: they are drawn anew once the handle rests.
        if (to) this.send(this.$root.dataset.move, { handle: handle.dataset.handle, gesture, rests: 1, ...to });
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
      const move = { handle: name, gesture: this.last.gesture, ...to };
      this.send(this.$root.dataset.move, { ...move, lens: this.$refs.stand.dataset.lens });
      this.rest();
    },

    // After the last press the column is read anew; nothing is written by that, so an undo in between stands.
    rest() {
      clearTimeout(this.resting);
      this.resting = setTimeout(() => {
        if (this.busy || this.queue.length || this.held || this.changing) return this.rest();
        this.readAt = this.changes;
        htmx.ajax("GET", this.$root.dataset.reading, { target: "#reading", swap: "innerHTML" });
      }, 400);
    },

    // Tools: what a press on the picture does.
    take(event) {
      this.takeUp(event.target.dataset.tool);
    },
    takeUp(tool) {
      this.tool = tool;
      this.chosen = null;
      this.tip = null;
      this.spot = null;
      this.away();
      document.activeElement?.closest(tool === "handles" ? ".bloom, .stem" : ".bloom, .stem, .handle")?.blur();
      // Another tool's button would take the space bar that is meant for the picture.
      document.activeElement?.closest(`.tools [data-tool]:not([data-tool="${tool}"])`)?.blur();
      document.querySelector("#layers .trace").setAttribute("d", "");
      if (tool === "blooms") document.querySelector(".groups")?.scrollIntoView({ block: "nearest" });
      this.$refs.stand.dataset.tool = tool;
      this.$root.dataset.tool = tool;
      if (tool === "try") this.startTrying();
      this.showLayers();
      this.$root.querySelectorAll(".tools [data-tool]").forEach((b) => b.setAttribute("aria-pressed", String(b.dataset.tool === tool)));
    },
    setBreadth() {
      this.breadth = Math.min(40, Math.max(2, Number(this.$refs.breadth.value)));
      localStorage.setItem("breadth", this.breadth);
    },
    radius() {
      return (this.breadth / 1000) * this.$refs.handles.viewBox.baseVal.height;
    },

    // The blooms come anew with every answer.
    chooseAgain() {
      if (!this.chosen || this.busy) return;
      const near = this.bloomAt(this.chosen);
      if (!near) this.chosen = null;
      else if (near !== document.activeElement) near.focus({ preventScroll: true });
    },
    press(event) {
      if (this.onTrial) {
        this.pressTry(event);
        return;
      }
      const layers = event.target.closest("#layers");
      if (!layers || event.button > 0) return;
      event.preventDefault();
      if (this.brushing) this.brush(layers, event);
      else if (this.tool === "neutral") this.pressNeutral(event);
      else if (this.tool === "remark") this.pin(this.point(event));
      else if (this.tool === "blooms") this.ring(layers, event);
      else if (this.tool === "stems") this.line(layers, event);
      else if (this.tool === "container") this.drawContainer(layers, event);
    },
    // One drag from an end of the rim to the opposite end of the foot puts all four handles.
    drawContainer(layers, event) {
      const start = this.point(event);
      let end = start;
      layers.setPointerCapture(event.pointerId);
      this.drag(layers, (e) => {
        end = this.point(e);
        this.sketch("ring", this.box(start, end));
        this.magnify(end);
      }, () => {
        this.away();
        this.setContainer(start, end);
      });
    },
    box(a, b) {
      return `M${a.x} ${a.y}H${b.x}V${b.y}H${a.x}Z`;
    },
    setContainer(start, end) {
      if (Math.hypot(end.x - start.x, end.y - start.y) < 0.02 * this.$refs.handles.viewBox.baseVal.height) return;
      this.make({ start: [start.x, start.y], end: [end.x, end.y] });
      this.takeUp("handles");
    },
    brush(layers, event) {
      const trace = layers.querySelector(".trace");
      const radius = this.radius();
      const points = [this.point(event)];
      trace.setAttribute("stroke-width", 2 * radius);
      trace.setAttribute("class", "trace " + this.tool);
      layers.setPointerCapture(event.pointerId);
      const draw = () => trace.setAttribute("d", "M" + points.map((p) => p.x.toFixed(1) + " " + p.y.toFixed(1)).join("L") + (points.length === 1 ? "h.1" : ""));
      draw();
      this.drag(layers, (e) => {
        const p = this.point(e);
        const before = points[points.length - 1];
        if (Math.hypot(p.x - before.x, p.y - before.y) < radius / 3 || points.length >= 400) return;
        points.push(p);
        draw();
      }, () => this.make(this.stroke(points, radius, event.shiftKey)));
    },
    stroke(points, radius, alone) {
      const made = { points: points.map((p) => [p.x, p.y]), radius };
      return this.painting ? { ...made, petal: this.tool === "petal", alone } : { ...made, plant: this.tool === "plant" };
    },
    ring(layers, event) {
      const at = this.point(event);
      const bloom = event.target.closest(".bloom") || this.bloomAt(at);
      if (bloom) {
        if (event.shiftKey && this.chosen) this.make({ act: "merge", at: [this.chosen.x, this.chosen.y], to: this.middle(bloom) });
        else bloom.focus({ preventScroll: true });
        return;
      }
      const trace = layers.querySelector(".trace");
      trace.setAttribute("class", "trace ring");
      layers.setPointerCapture(event.pointerId);
      let radius = 0;
      this.chosen = null;
      this.drag(layers, (e) => {
        const p = this.point(e);
        radius = Math.hypot(p.x - at.x, p.y - at.y);
        trace.setAttribute("d", this.circle(at, radius));
      }, () => {
        const small = radius < 0.006 * this.$refs.handles.viewBox.baseVal.height;
        this.chosen = { ...at, words: "New bloom" };
        this.make({ act: "add", at: [at.x, at.y], radius: small ? null : radius });
      });
    },
    // A stem is bent by its ends and its bend, or drawn from tip to foot.
    line(layers, event) {
      const at = this.point(event);
      const stem = event.target.closest(".stem");
      const end = event.target.dataset.end;
      if (stem && !end) {
        stem.focus({ preventScroll: true });
        return;
      }
      const places = stem ? this.run(stem) : { tip: [at.x, at.y], foot: [at.x, at.y] };
      const was = stem ? places.tip : null;
      const trace = layers.querySelector(".trace");
      trace.setAttribute("class", "trace ring");
      layers.setPointerCapture(event.pointerId);
      let moved = false;
      this.drag(layers, (e) => {
        const p = this.point(e);
        moved = moved || Math.hypot(p.x - at.x, p.y - at.y) > 0.004 * this.$refs.handles.viewBox.baseVal.height;
        places[end || "foot"] = [p.x, p.y];
        const [tip, foot] = [places.tip, places.foot];
        const half = places.bend || [(tip[0] + foot[0]) / 2, (tip[1] + foot[1]) / 2];
        const control = half.map((v, i) => 2 * v - (tip[i] + foot[i]) / 2);
        trace.setAttribute("d", `M${foot.join(" ")}Q${control.join(" ")} ${tip.join(" ")}`);
        this.magnify(p);
      }, () => {
        this.away();
        if (!moved) trace.setAttribute("d", "");
        else this.make({ line: stem ? "bend" : "draw", at: was, ...places });
      });
    },
    run(stem) {
      return Object.fromEntries(["tip", "bend", "foot"].map((name) => [name, stem.dataset[name].split(",").map(Number)]));
    },
    // Without a mouse: the arrows carry the brush, a new bloom or the end of a new stem; the space bar sets it down.
    carry(event) {
      const box = this.$refs.handles.viewBox.baseVal;
      const unit = (box.height / 1000) * (event.shiftKey ? 30 : 5);
      const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key] || [0, 0];
      const from = this.carried || { x: box.width / 2, y: box.height / 3 };
      const at = { x: Math.min(Math.max(from.x + step[0] * unit, 0), box.width), y: Math.min(Math.max(from.y + step[1] * unit, 0), box.height) };
      this.carried = at;
      const down = event.key === " ";
      this.magnify(at);
      if (this.tool === "remark") {
        this.sketch("ring", this.circle(at, box.height * 0.012));
        if (down) this.pin(at);
      } else if (this.brushing) {
        this.sketch(this.tool, `M${at.x} ${at.y}h.1`, 2 * this.radius());
        if (down) this.make(this.stroke([at], this.radius(), event.shiftKey));
      } else if (this.tool === "blooms") {
        const radii = [...document.querySelectorAll("#layers .bloom")].map((bloom) => Number(bloom.dataset.r)).sort((a, b) => a - b);
        this.sketch("ring", this.circle(at, radii[radii.length >> 1] || box.height * 0.03));
        if (!down) return;
        this.chosen = { ...at, words: "New bloom" };
        this.make({ act: "add", at: [at.x, at.y], radius: null });
      } else if (this.tool === "container") {
        this.sketch("ring", (this.tip ? this.box(this.tip, at) : "") + this.circle(at, box.height * 0.006));
        if (!down) return;
        const start = this.tip;
        this.tip = start ? null : at;
        if (start) this.setContainer(start, at);
      } else {
        if (down && this.tip && Math.hypot(at.x - this.tip.x, at.y - this.tip.y) > 0.01 * box.height) {
          this.make({ line: "draw", at: null, tip: [this.tip.x, this.tip.y], foot: [at.x, at.y], bend: null });
          this.tip = null;
        } else if (down) this.tip = at;
        this.sketch("ring", (this.tip ? `M${this.tip.x} ${this.tip.y}L${at.x} ${at.y}` : "") + this.circle(at, box.height * 0.006));
      }
    },
    sketch(kind, d, width = "") {
      const trace = document.querySelector("#layers .trace");
      trace.setAttribute("class", "trace " + kind);
      if (width) trace.setAttribute("stroke-width", width);
      trace.setAttribute("d", d);
    },
    circle(at, radius) {
      return `M${at.x - radius} ${at.y}a${radius} ${radius} 0 1 0 ${2 * radius} 0a${radius} ${radius} 0 1 0 ${-2 * radius} 0`;
    },
    // The blooms of one group are shown together.
    pick(event) {
      if (this.pickTint(event)) return;
      const wish = event.target.closest("[data-try]")?.dataset.try;
      if (wish) {
        localStorage.setItem(this.triesKey(), wish);
        this.takeUp("try");
        return;
      }
      const one = event.target.closest("button[data-group]");
      const on = one && one.getAttribute("aria-pressed") !== "true";
      document.querySelectorAll("button[data-group]").forEach((b) => b.setAttribute("aria-pressed", String(b === one && on)));
      document.querySelectorAll("#layers .bloom").forEach((b) => b.classList.toggle("picked", on && b.dataset.group === one.dataset.group));
      if (on && this.tool !== "blooms") this.takeUp("blooms");
    },
    drag(on, move, end) {
      const drop = (e) => {
        on.removeEventListener("pointermove", move);
        on.removeEventListener("pointerup", drop);
        on.removeEventListener("pointercancel", drop);
        if (e.type === "pointerup") end();
      };
      on.addEventListener("pointermove", move);
      on.addEventListener("pointerup", drop);
      on.addEventListener("pointercancel", drop);
    },
    middle(bloom) {
      return [Number(bloom.dataset.x), Number(bloom.dataset.y)];
    },
    bloomAt(p) {
      let best = null;
      let least = 1;
      document.querySelectorAll("#layers .bloom").forEach((bloom) => {
        const [x, y] = this.middle(bloom);
        const off = Math.hypot(x - p.x, y - p.y) / Number(bloom.dataset.r);
        if (off < least) [best, least] = [bloom, off];
      });
      return best;
    },
    choose(bloom) {
      const [x, y] = this.middle(bloom);
      this.chosen = { x, y, words: bloom.getAttribute("aria-label") };
    },
    act(event) {
      this.actOn(event.target.dataset.act, event.target.dataset.role);
    },
    actOn(act, role) {
      if (!this.chosen) return;
      this.make({ act, at: [this.chosen.x, this.chosen.y], role: role || null });
      if (act === "remove") this.chosen = null;
    },
    make(change) {
      this.send(this.$root.dataset.change, { gesture: this.newGesture(), change: JSON.stringify(change) });
    },

    // Where the eye goes, and what counts as petal, fetched when they are asked for.
    turnEye() {
      this.eyeOn = !this.eyeOn;
      this.$refs.eyeButton.setAttribute("aria-pressed", String(this.eyeOn));
      this.showLayers();
    },
    showLayers() {
      const shown = { eye: this.eyeOn && !this.painting, petals: this.painting };
      document.querySelectorAll("#layers image").forEach((layer) => {
        const name = layer.getAttribute("class");
        if (shown[name] && layer.getAttribute("href") !== layer.dataset.href) layer.setAttribute("href", layer.dataset.href);
        this.$refs.stand.classList.toggle("by-" + name, shown[name]);
      });
    },

    // The loupe shows what lies under the pointer, beside it.
    turnLoupe() {
      this.loupeOn = !this.loupeOn;
      this.$refs.loupeButton.setAttribute("aria-pressed", String(this.loupeOn));
      if (!this.loupeOn) this.away();
    },
    hover(event) {
      if (this.loupeOn && !this.held) this.magnify(this.point(event));
    },
    magnify(p) {
      const loupe = this.$refs.loupe;
      const stand = this.$refs.stand.getBoundingClientRect();
      const size = 180;
      const across = (size / stand.width) * this.$refs.handles.viewBox.baseVal.width * 0.22;
      loupe.setAttribute("viewBox", `${p.x - across / 2} ${p.y - across / 2} ${across} ${across}`);
      const cross = `M${p.x - across / 12} ${p.y}h${across / 6}M${p.x} ${p.y - across / 12}v${across / 6}`;
      loupe.querySelectorAll("path").forEach((path) => path.setAttribute("d", cross));
      const [wide, high] = [stand.width / this.zoom, stand.height / this.zoom];
      const x = (p.x / this.$refs.handles.viewBox.baseVal.width) * wide;
      const y = (p.y / this.$refs.handles.viewBox.baseVal.height) * high;
      const own = size / this.zoom; // it keeps its size on the screen
      loupe.style.left = (x > wide / 2 ? x - own - 28 / this.zoom : x + 28 / this.zoom) + "px";
      loupe.style.top = Math.max(0, Math.min(high - own, y - own / 2)) + "px";
      loupe.classList.add("shown");
    },
    away() {
      this.$refs.loupe.classList.remove("shown");
    },

    // One request at a time, in order; a newer place of the same move takes the older one's turn.
    send(to, values) {
      this.changes += 1;
      const behind = this.queue.length - 1;
      const newer = behind >= (this.busy ? 1 : 0) && this.queue[behind].values.gesture === values.gesture;
      if (newer) this.queue[behind] = { to, values };
      else this.queue.push({ to, values });
      this.keep();
      this.work();
    },
    keep() {
      if (this.queue.length) localStorage.setItem(this.store(), JSON.stringify(this.queue));
      else localStorage.removeItem(this.store());
    },
    work() {
      if (this.busy || !this.queue.length) return;
      this.busy = true;
      const { to, values } = this.queue[0];
      this.say("Saving …");
      const failed = () => {
        this.say("Not saved yet; trying again", true);
        setTimeout(() => {
          this.busy = false;
          this.work();
        }, 2000);
      };
      if ("lens" in values) {
        // A handle on its way: only figures come back.
        const data = new FormData();
        Object.entries({ ...values, seen: this.seen() }).forEach(([k, v]) => data.append(k, v));
        fetch(to, { method: "POST", body: data, headers: { "X-CSRFToken": this.$root.dataset.csrf } })
          .then((answer) => (answer.status === 200 && answer.headers.get("content-type").startsWith("application/json") ? answer.json().then((found) => this.onTheWay(found)).then(() => this.done()) : answer.status === 200 || answer.status === 204 ? this.done() : [400, 403, 404].includes(answer.status) ? this.refused() : failed()))
          .catch(failed);
        return;
      }
      let status = 0;
      const seen = (e) => {
        if (e.detail.pathInfo?.requestPath === to) status = e.detail.xhr.status;
      };
      document.body.addEventListener("htmx:afterRequest", seen);
      htmx
        .ajax("POST", to, { target: "#reading", swap: "innerHTML", values: { ...values, seen: this.seen() } })
        .then(() => (status === 200 ? this.done() : [400, 403, 404].includes(status) ? this.refused() : failed()))
        .catch(failed)
        .finally(() => document.body.removeEventListener("htmx:afterRequest", seen));
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
      Object.entries(found.lines).forEach(([code, [figure, spread, mark, state, band, advice, sums]]) => {
        const line = document.getElementById("line-" + code);
        put(line, ".figure", figure);
        put(line, ".spread", spread);
        put(line, ".mark-of", mark);
        put(line, ".advice", advice);
        put(line, ".sums", sums);
        line?.querySelector(".mark-of").setAttribute("class", "mark-of " + state);
        const drawn = line?.querySelector(".band");
        if (drawn && band) drawn.outerHTML = band;
      });
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
        this.say("All saved " + new Date().toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" }));
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
      if (this.keyPhrase(event)) return;
      if (event.ctrlKey || event.metaKey || event.altKey || on.closest("input, textarea, select")) return;
      const handle = on.closest(".handle");
      if (handle && event.key.startsWith("Arrow")) {
        event.preventDefault();
        this.nudge(handle, event);
        return;
      }
      if (this.onTrial && this.keyTry(event)) return;
      const bloom = on.closest(".bloom");
      if (bloom && this.chosen) {
        const act = { Delete: ["remove"], Backspace: ["remove"], s: ["split"], j: ["merge"], f: ["role", "focal"], m: ["role", "mass"], l: ["role", "line"], i: ["role", "filler"], g: ["role", "foliage"] }[event.key];
        if (act) {
          event.preventDefault();
          this.actOn(...act);
          return;
        }
      }
      // The button of the tool in hand keeps the focus; keys pressed on it are meant for the picture.
      const elsewhere = on.closest("button, a, summary, .bloom, .stem");
      const drawn = this.tool !== "handles" && !this.onTrial && (!elsewhere || elsewhere.dataset.tool === this.tool);
      if (drawn && (event.key.startsWith("Arrow") || event.key === " ")) {
        event.preventDefault();
        this.carry(event);
        return;
      }
      const stem = on.closest("#layers .stem");
      if (stem && (event.key === "Delete" || event.key === "Backspace")) {
        event.preventDefault();
        this.make({ line: "drop", at: this.run(stem).tip });
        return;
      }
      if (stem && event.key.startsWith("Arrow")) {
        event.preventDefault();
        const unit = (this.$refs.handles.viewBox.baseVal.height / 1000) * (event.shiftKey ? 20 : 4);
        const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
        const places = this.run(stem);
        this.make({ line: "bend", at: places.tip, ...places, tip: places.tip.map((v, i) => Math.max(0, v + step[i] * unit)) });
        return;
      }
      if (this.keyViewing(event)) return;
      const tool = { h: "handles", b: "plant", e: "not-plant", q: "petal", d: "leaf", o: "blooms", t: "stems", y: "try", g: "neutral", j: "container" }[event.key.toLowerCase()];
      const wider = { "[": -2, "]": 2 }[event.key];
      const lens = { 1: "proportion", 2: "balance", 3: "focal", 4: "colour", 5: "line", 6: "finish", 0: "all" }[event.key];
      const named = { a: "accept", u: "undo", n: "next", p: "previous", r: "return", s: "confirm", m: "reopen" }[event.key.toLowerCase()];
      if (lens) this.turnTo(lens);
      else if (tool) this.takeUp(tool);
      else if (wider) {
        this.$refs.breadth.value = this.breadth + wider;
        this.setBreadth();
      } else if (event.key.toLowerCase() === "z") this.turnLoupe();
      else if (event.key.toLowerCase() === "w") this.turnEye();
      else if (named && !event.repeat) this.byKey(named);
      else if (event.key === "Escape") {
        this.keysShown = false;
        this.takeUp("handles");
      }
    },
  }));
});
