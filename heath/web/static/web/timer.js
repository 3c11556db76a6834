// Countdowns at the bench. Each is kept as the moment it ends, so that a reload or a locked phone
// loses nothing; the ring is set in the
// sound engine beforehand, which may go on where the page's own clock is held back.
document.addEventListener("alpine:init", () => {
  Alpine.data("timer", () => ({
    note:
      "Once loaded it needs no server. Leave the page open and the sound on; countdowns go on" +
      " while the phone is locked.",
    init() {
      this.all = JSON.parse(localStorage.getItem("timers") || "[]");
      new URLSearchParams(location.search).getAll("t").forEach((one) => {
        const at = one.lastIndexOf(":"),
          name = one.slice(0, at).slice(0, 40),
          total = Number(one.slice(at + 1));
        if (
          !(total > 0 && total <= 86400) ||
          this.all.some((t) => t.name === name && t.total === total)
        )
          return;
        this.all.push(this.made(name, total));
      });
      if (location.search) {
        localStorage.setItem("timers", JSON.stringify(this.all));
        history.replaceState(null, "", location.pathname);
      }
      this.list = document.getElementById("timers");
      this.list.addEventListener("click", (e) => this.pressed(e));
      this.draw();
      setInterval(() => this.tick(), 200);
      document.addEventListener(
        "visibilitychange",
        () => document.visibilityState === "visible" && this.awake(),
      );
      document.addEventListener("pointerdown", () => this.sound(), { once: true });
      if ("serviceWorker" in navigator) {
        navigator.serviceWorker.register(this.$root.dataset.worker, { scope: "/timer/" }).then(
          () =>
            navigator.serviceWorker.ready.then(
              () => (document.documentElement.dataset.kept = "yes"),
            ),
          () => (this.note = "Leave this page open: without the server it cannot be loaded again."),
        );
      }
      if (this.all.some((t) => t.end > Date.now()))
        this.note = "Touch the page once, so that it may ring.";
    },
    made(name, total) {
      return { id: Math.random().toString(36).slice(2), name, total, end: 0, rung: false };
    },
    add(event) {
      event.preventDefault();
      const form = event.target,
        pressed = event.submitter?.value;
      const own =
        Number(form.elements.minutes.value || 0) * 60 + Number(form.elements.own.value || 0);
      const total = pressed && pressed !== "own" ? Number(pressed) : own;
      if (!(total > 0 && total <= 86400)) {
        this.say("How long? Press one of the lengths, or write minutes and seconds.");
        return;
      }
      const one = this.made(form.elements.name.value.trim() || `${this.words(total)}`, total);
      this.all.unshift(one);
      form.reset();
      this.start(one);
    },
    start(one) {
      this.sound();
      one.end = Date.now() + one.total * 1000;
      one.rung = false;
      this.ring(one);
      this.awake();
      this.keep();
      this.say(`${one.name}: ${this.words(one.total)} begun.`);
    },
    pressed(event) {
      const button = event.target.closest("button[data-do]");
      const one = button && this.all.find((t) => t.id === button.closest("li").dataset.id);
      if (!one) return;
      if (button.dataset.do === "start") return this.start(one);
      this.hush(one);
      if (button.dataset.do === "stop") one.end = 0;
      else this.all = this.all.filter((t) => t !== one);
      this.keep();
    },
    keep() {
      localStorage.setItem(
        "timers",
        JSON.stringify(
          this.all.map(({ id, name, total, end, rung }) => ({ id, name, total, end, rung })),
        ),
      );
      this.draw();
    },
    // The engine may only begin with a touch; a tone too low to hear keeps it going.
    sound() {
      if (!this.engine) {
        this.engine = new AudioContext();
        const idle = this.engine.createOscillator(),
          low = this.engine.createGain();
        low.gain.value = 0.0001;
        idle.connect(low).connect(this.engine.destination);
        idle.start();
        this.rings = new Map();
        this.all.filter((t) => t.end > Date.now()).forEach((t) => this.ring(t));
      }
      this.engine.resume();
    },
    ring(one) {
      this.hush(one);
      const from = this.engine.currentTime + Math.max(0, (one.end - Date.now()) / 1000);
      const tones = [0, 0.35, 0.7, 1.6, 1.95, 2.3].map((after, n) => {
        const tone = this.engine.createOscillator(),
          loud = this.engine.createGain();
        tone.frequency.value = n % 3 === 2 ? 1320 : 990;
        loud.gain.value = 0.35;
        tone.connect(loud).connect(this.engine.destination);
        tone.start(from + after);
        tone.stop(from + after + 0.25);
        return tone;
      });
      this.rings.set(one.id, tones);
    },
    hush(one) {
      this.rings?.get(one.id)?.forEach((tone) => tone.stop());
      this.rings?.delete(one.id);
    },
    async awake() {
      const soon = this.all.some((t) => t.end > Date.now() && t.end - Date.now() < 300000);
      if (soon && !this.lock && navigator.wakeLock) {
        this.lock = await navigator.wakeLock.request("screen").catch(() => null);
        this.lock?.addEventListener("release", () => (this.lock = null));
      }
    },
    words(seconds) {
      const s = Math.max(0, Math.ceil(seconds)),
        h = Math.floor(s / 3600),
        m = Math.floor((s % 3600) / 60);
      const two = (n) => String(n).padStart(2, "0");
      return h ? `${h}:${two(m)}:${two(s % 60)}` : `${m}:${two(s % 60)}`;
    },
    tick() {
      const now = Date.now();
      let done = false;
      this.all.forEach((one) => {
        const row = this.list.querySelector(`[data-id="${one.id}"]`);
        if (!row || !one.end) return;
        const left = (one.end - now) / 1000;
        row.querySelector(".left").textContent =
          left > 0 ? this.words(left) : `over by ${this.words(-left)}`;
        row.querySelector("progress").value = Math.min(1, 1 - left / one.total);
        if (left > 0) return;
        done = true;
        if (!one.rung) {
          one.rung = true;
          navigator.vibrate?.([300, 150, 300, 150, 600]);
          this.keep();
          this.say(`${one.name} is done.`);
        }
      });
      document.documentElement.classList.toggle("timer-rings", done);
    },
    draw() {
      this.list.replaceChildren(
        ...this.all.map((one) => {
          const row = document.createElement("li");
          row.dataset.id = one.id;
          row.className = !one.end ? "idle" : one.end > Date.now() ? "runs" : "done";
          const name = document.createElement("b"),
            left = document.createElement("span"),
            bar = document.createElement("progress");
          name.textContent = one.name;
          left.className = "left";
          left.textContent = this.words(one.end ? (one.end - Date.now()) / 1000 : one.total);
          bar.max = 1;
          bar.value = 0;
          bar.setAttribute("aria-label", one.name);
          const button = (what, words) => {
            const made = document.createElement("button");
            made.type = "button";
            made.dataset.do = what;
            made.textContent = words;
            made.setAttribute("aria-label", `${words}: ${one.name}`);
            return made;
          };
          row.append(
            name,
            left,
            bar,
            one.end > Date.now()
              ? button("stop", "Stop")
              : button("start", one.end ? "Again" : "Start"),
            button("out", "Take away"),
          );
          return row;
        }),
      );
      this.tick();
    },
    say(words) {
      document.getElementById("timer-says").textContent = words;
    },
  }));
});
