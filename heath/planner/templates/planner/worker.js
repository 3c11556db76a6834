// Keeps the timer's page and all it is made of, for when the server is out of reach; nothing else
// of the site.
const KEPT = "timer-1";

const parts = async () => {
  const page = await fetch("/timer/", { credentials: "omit" });
  const cache = await caches.open(KEPT);
  const text = await page.clone().text();
  await cache.put("/timer/", page);
  const links = [...text.matchAll(/(?:src|href)="(\/static\/[^"]+)"/g)].map((m) => m[1]);
  await cache.addAll(links);
  for (const sheet of links.filter((l) => l.endsWith(".css"))) {
    const style = await (await cache.match(sheet)).text();
    const fonts = [...style.matchAll(/url\(["']?([^"')]+\.woff2)["']?\)/g)].map(
      (m) => new URL(m[1], new URL(sheet, self.location)).pathname,
    );
    await cache.addAll([...new Set(fonts)]);
  }
};

self.addEventListener("install", (event) =>
  event.waitUntil(parts().then(() => self.skipWaiting())),
);
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  const own =
    url.pathname === "/timer/"
      ? "/timer/"
      : url.pathname.startsWith("/static/")
        ? event.request
        : null;
  if (event.request.method !== "GET" || url.origin !== self.location.origin || own === null) return;
  event.respondWith(
    fetch(event.request).catch(async () => (await caches.match(own)) || Response.error()),
  );
});
