/** The page and its files without network, and pictures once seen.
 *
 * What the server says about jobs is not kept here but by the page, which knows who is signed in.
 */
/// <reference lib="webworker" />
export {};
declare const self: ServiceWorkerGlobalScope;

/** Put in by the build: every file of this version. */
declare const __FILES__: string[];
declare const __VERSION__: string;

const SHELL = `shell-${__VERSION__}`;
const PICTURES = "pictures";
const PICTURE = /^\/api\/photos\/[0-9a-f]{64}$/;

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(SHELL).then((cache) => cache.addAll(["/", ...__FILES__])));
});

self.addEventListener("activate", (event) => {
  const old = (name: string): boolean => name.startsWith("shell-") && name !== SHELL;
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(names.filter(old).map((name) => caches.delete(name))))
      .then(() => self.clients.claim()),
  );
});

self.addEventListener("message", (event) => {
  if (event.data === "takeover") void self.skipWaiting();
});

/** A tap on an alarm brings the page it is about to the front. */
self.addEventListener("notificationclick", (event) => {
  event.notification.close();
  const to = String(event.notification.data ?? "/");
  event.waitUntil(
    self.clients.matchAll({ type: "window" }).then(async (open) => {
      const page = open[0];
      if (!page) return void (await self.clients.openWindow(to));
      await page.focus();
      page.postMessage({ to });
    }),
  );
});

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const at = new URL(request.url);
  if (request.method !== "GET" || at.origin !== self.location.origin) return;
  if (request.mode === "navigate" && at.pathname === "/") event.respondWith(shell("/", request));
  else if (at.pathname.startsWith("/static/")) event.respondWith(shell(at.pathname, request));
  else if (PICTURE.test(at.pathname)) event.respondWith(picture(request));
});

async function shell(path: string, request: Request): Promise<Response> {
  const cache = await caches.open(SHELL);
  return (await cache.match(path)) ?? fetch(request);
}

/** A picture never changes under its name; who signs out takes the store away. */
async function picture(request: Request): Promise<Response> {
  const cache = await caches.open(PICTURES);
  const kept = await cache.match(request.url);
  if (kept) return kept;
  const answer = await fetch(request);
  if (answer.ok) await cache.put(request.url, answer.clone()).catch(() => undefined); // no room: it is seen all the same
  return answer;
}
