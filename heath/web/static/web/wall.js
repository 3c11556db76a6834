// The wall: arrow keys walk from piece to piece, and pictures load as they come near.

const NEAR = "1200px"; // beyond the window's sides
const STEPS = { ArrowLeft: -1, ArrowRight: 1 };

// Which piece a key leads to from the one in hand: its number, or null.
export function walked(key, at, count) {
  if (!count) return null;
  if (key === "Home") return 0;
  if (key === "End") return count - 1;
  if (!(key in STEPS)) return null;
  return at < 0 ? 0 : Math.min(Math.max(at + STEPS[key], 0), count - 1);
}

function faces() {
  return [...document.querySelectorAll(".hung .face")];
}

function bring(face) {
  face.focus({ preventScroll: true });
  face.closest(".hung").scrollIntoView({ block: "nearest", inline: "center" });
}

function watch() {
  const seen = new IntersectionObserver(
    (entries) => {
      for (const { isIntersecting, target } of entries) {
        if (!isIntersecting) continue;
        for (const image of target.querySelectorAll("image[data-href]"))
          image.setAttribute("href", image.dataset.href);
        seen.unobserve(target);
      }
    },
    { rootMargin: `0px ${NEAR}` },
  );
  document.querySelectorAll(".hung").forEach((one) => seen.observe(one));
}

function press(event) {
  if (event.altKey || event.ctrlKey || event.metaKey) return;
  if (event.target.closest("input, select, textarea, summary")) return;
  const all = faces();
  const at = all.findIndex((face) => face.closest(".hung").contains(document.activeElement));
  const to = walked(event.key, at, all.length);
  if (to === null) return;
  event.preventDefault();
  bring(all[to]);
}

// A piece that was left for the bench is in hand again on the way back.
function remember(event) {
  const hung = event.target.closest?.(".hung");
  if (hung) sessionStorage.setItem("hung", hung.id);
}

if (typeof document !== "undefined") {
  watch();
  document.addEventListener("keydown", press);
  document.addEventListener("focusin", remember);
  let left = 0; // the wall stands where it stood when it is drawn anew
  const own = (e) => e.target.id === "wall";
  const wall = () => document.querySelector(".wall");
  document.body.addEventListener("htmx:beforeSwap", (e) => own(e) && (left = wall().scrollLeft));
  document.body.addEventListener("htmx:afterSwap", (e) => {
    if (!own(e)) return;
    wall().scrollLeft = left;
    watch();
  });
  const last = document.getElementById(sessionStorage.getItem("hung") || "");
  if (last) last.scrollIntoView({ block: "nearest", inline: "center" });
}
