// What is drawn over the photograph: lenses, the opened rule's evidence, the eye's and the petals'
// layer.

export const layers = {
  eyeOn: false,

  opened(event) {
    if (event.target.matches("details.line"))
      this.showOpened(event.target.open ? event.target : null);
  },

  // What the rule that stands open rests on, drawn over the photograph.
  showOpened(line) {
    const one = line || [...this.$root.querySelectorAll("details.line[open]")].pop();
    if (one) htmx.ajax("GET", one.dataset.evidence, { target: "#opened", swap: "outerHTML" });
    else document.getElementById("opened").replaceChildren();
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
    this.$root
      .querySelectorAll(".lenses button")
      .forEach((b) => b.setAttribute("aria-pressed", String(b.dataset.lens === lens)));
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
      if (shown[name] && layer.getAttribute("href") !== layer.dataset.href)
        layer.setAttribute("href", layer.dataset.href);
      this.$refs.stand.classList.toggle("by-" + name, shown[name]);
    });
  },
};
