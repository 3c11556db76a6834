// What is typed is kept on this machine until it is saved, so that a reload loses nothing.
const name = (form) => "kept:" + form.dataset.kept;
const fields = (form) =>
  [...form.elements].filter(
    (e) =>
      e.name &&
      !["hidden", "file", "password", "submit"].includes(e.type) &&
      e.tagName !== "BUTTON",
  );

const ticked = (e) => e.type === "checkbox" || e.type === "radio";
const key = (e) => (ticked(e) ? `${e.name}=${e.value}` : e.name);
const state = (e) => (ticked(e) ? e.checked : e.value);

const restore = (root) =>
  root.querySelectorAll("form[data-kept]").forEach((form) => {
    if (form.querySelector(".faulty, .fault")) return; // the server's answer shows what was sent
    const kept = JSON.parse(localStorage.getItem(name(form)) || "null");
    if (!kept) return;
    let changed = false;
    fields(form).forEach((e) => {
      if (!(key(e) in kept) || kept[key(e)] === state(e)) return;
      if (ticked(e)) e.checked = kept[key(e)];
      else e.value = kept[key(e)];
      changed = true;
    });
    const line = form.closest("details");
    if (line && changed) line.open = true;
    if (changed) form.dispatchEvent(new Event("change", { bubbles: true }));
  });

document.addEventListener("input", (event) => {
  const form = event.target.closest("form[data-kept]");
  if (!form) return;
  localStorage.setItem(
    name(form),
    JSON.stringify(Object.fromEntries(fields(form).map((e) => [key(e), state(e)]))),
  );
});

// An ordinary form: saved when the page that follows no longer holds it with faults.
document.addEventListener("submit", (event) => {
  const form = event.target.closest("form[data-kept]");
  if (form && !form.hasAttribute("hx-post")) sessionStorage.setItem("sent", name(form));
});
document.addEventListener("DOMContentLoaded", () => {
  const sent = sessionStorage.getItem("sent");
  if (sent) {
    sessionStorage.removeItem("sent");
    if (!document.querySelector("form[data-kept] .fault")) localStorage.removeItem(sent);
  }
  restore(document);
});

// A container taken from the shelf brings its name and sizes; a picture chosen is sent at once.
document.addEventListener("change", (event) => {
  const select = event.target;
  if (select.matches?.("select[data-fills]")) {
    const form = select.form;
    Object.entries(select.selectedOptions[0]?.dataset || {}).forEach(([field, value]) => {
      if (form.elements[field]) form.elements[field].value = value;
    });
    form.dispatchEvent(new Event("input", { bubbles: true }));
  }
  if (select.matches?.("input[data-sends]") && select.files.length) {
    select.form.querySelector("[data-sending]")?.removeAttribute("hidden");
    select.form.requestSubmit();
  }
});

// A form inside the column: saved when the answer brings no fault for it. Lines stay open over
// swaps.
let open = [];
let sentForm = null;
document.addEventListener("htmx:beforeRequest", (event) => {
  sentForm = event.detail.elt.closest?.("form[data-kept]")
    ? name(event.detail.elt.closest("form[data-kept]"))
    : null;
});
document.addEventListener("htmx:beforeSwap", (event) => {
  open = [...document.querySelectorAll("#reading details[open]")].map((d) => d.id);
  if (
    sentForm &&
    event.detail.xhr.status === 200 &&
    !/class="fault"/.test(event.detail.xhr.responseText)
  )
    localStorage.removeItem(sentForm);
});
document.addEventListener("htmx:afterSwap", (event) => {
  open.forEach((id) => document.getElementById(id)?.setAttribute("open", ""));
  restore(event.detail.target);
});
