// Copies a field's text, and says so; where the browser does not allow it, selects the text.
document.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-copy]");
  if (!button) return;
  const field = document.getElementById(button.dataset.copy);
  const said = document.getElementById("copied");
  field.select();
  try {
    await navigator.clipboard.writeText(field.value);
    said.textContent = "Copied.";
  } catch {
    said.textContent = "Selected: copy with Ctrl C.";
  }
});
