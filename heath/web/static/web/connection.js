// What was sent and did not arrive, or was refused, is said in one sentence on every page; nothing
// leaves a page while the site cannot be reached.

const REACH_MS = 5000; // waited for the site before a form is sent
const LONGEST = 300; // letters of an answer that is shown as it came

const LOST = "The site cannot be reached. Nothing was sent: check the connection and try again.";
const STAYS = "The site cannot be reached. This page stays as it is: check the connection.";
const BROKEN =
  "Something went wrong on the site and nothing was changed. Try again. If it happens again, tell" +
  " the person who looks after the site.";

// The sentence for an answer: its status (0 for none), what it holds, and its media type.
export function sentence(status, text = "", kind = "") {
  if (!status) return LOST;
  const own = kind.startsWith("text/plain") && text.length <= LONGEST ? text.trim() : "";
  if (own) return own;
  if (status >= 500) return BROKEN;
  if (status === 404) return "That is no longer there. Load the page again.";
  if (status === 413) return "This is more than can be sent at once. Send less of it.";
  return "The site did not take this. Load the page again and try once more.";
}

// Whether the browser itself sends this form: a POST that no script takes over.
export function leaves(form, by) {
  const method = by?.getAttribute?.("formmethod") || form.getAttribute("method") || "get";
  const taken = [form, by].some((e) => e?.getAttribute?.("hx-post") || e?.getAttribute?.("hx-get"));
  return method.toLowerCase() === "post" && !taken;
}

function strip() {
  return document.getElementById("connection");
}

function say(words, status = 0) {
  strip().querySelector("p").textContent = words;
  strip().querySelector("a").hidden = status !== 401;
  strip().hidden = false;
}

function hush() {
  strip().hidden = true;
}

async function reached() {
  try {
    const icon = document.querySelector("link[rel=icon]").href;
    await fetch(icon, {
      method: "HEAD",
      cache: "no-store",
      signal: AbortSignal.timeout(REACH_MS),
    });
    return true;
  } catch {
    return false;
  }
}

function guard() {
  const asked = new WeakSet();
  const sent = new WeakSet();
  document.addEventListener(
    "submit",
    async (event) => {
      const form = event.target;
      if (sent.has(form)) return void sent.delete(form);
      if (!leaves(form, event.submitter)) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      if (asked.has(form)) return;
      asked.add(form);
      const there = await reached();
      asked.delete(form);
      if (!there) return void say(LOST);
      hush();
      sent.add(form);
      form.requestSubmit(event.submitter);
      sent.delete(form);
    },
    true,
  );
  document.addEventListener("click", (event) => {
    const link = event.target.closest?.("a[href]");
    if (!link || navigator.onLine || link.getAttribute("href").startsWith("#")) return;
    if (event.defaultPrevented) return;
    event.preventDefault();
    say(STAYS);
  });
}

if (typeof document !== "undefined") {
  guard();
  // The bench's own queue sends as the page itself, keeps what did not arrive, and says so.
  const own = (event) => event.detail.elt === document.body;
  const shows = ({ elt, requestConfig }) =>
    requestConfig.verb === "get" || "preview" in elt.dataset;
  const lost = (event) => own(event) || say(shows(event.detail) ? STAYS : LOST);
  document.addEventListener("htmx:sendError", lost);
  document.addEventListener("htmx:timeout", lost);
  document.addEventListener("htmx:responseError", (event) => {
    const { xhr } = event.detail;
    if (own(event) && xhr.status !== 401) return;
    say(
      sentence(xhr.status, xhr.responseText, xhr.getResponseHeader("Content-Type") || ""),
      xhr.status,
    );
  });
  document.addEventListener("htmx:afterOnLoad", (e) => e.detail.xhr.status < 400 && hush());
  window.addEventListener("online", hush);
}
