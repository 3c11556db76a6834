// The simulated camera's finder follows what is chosen.
const finder = document.querySelector("[data-finder]");
if (finder) {
  const camera = document.getElementById("camera");
  const look = () => {
    const query = new URLSearchParams(new FormData(camera));
    query.delete("csrfmiddlewaretoken");
    finder.src = `${finder.dataset.finder}?${query}`;
  };
  let wait;
  camera.addEventListener("change", () => {
    clearTimeout(wait);
    wait = setTimeout(look, 150);
  });
  look();
}
