// Day and evening: set before the page is drawn, kept on this machine.
document.documentElement.dataset.theme =
  localStorage.getItem("theme") ||
  (matchMedia("(prefers-color-scheme: dark)").matches ? "evening" : "day");

document.addEventListener("alpine:init", () => {
  Alpine.data("theme", () => ({
    other: document.documentElement.dataset.theme === "day" ? "Evening" : "Day",
    turn() {
      const now = document.documentElement.dataset.theme === "day" ? "evening" : "day";
      document.documentElement.dataset.theme = now;
      localStorage.setItem("theme", now);
      this.other = now === "day" ? "Evening" : "Day";
    },
  }));
});
