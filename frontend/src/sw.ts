/// <reference lib="webworker" />
import { clientsClaim } from "workbox-core";
import { cleanupOutdatedCaches, type PrecacheEntry, precacheAndRoute } from "workbox-precaching";
import { registerRoute } from "workbox-routing";
import { NetworkFirst } from "workbox-strategies";
import { AT_PRESS, isAtPress, KEPT_AT_PRESS } from "./api/offline";

/**
 * Press mode, once opened, opens again with the network cut: its page, and what it had read. Nothing else of the shop is kept.
 */
declare const self: ServiceWorkerGlobalScope & { __WB_MANIFEST: PrecacheEntry[] };

const SHELL = "shell";
const PATIENCE_S = 4;

precacheAndRoute(self.__WB_MANIFEST);
cleanupOutdatedCaches();
void self.skipWaiting();
clientsClaim();

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(SHELL).then((shell) => shell.add(new Request("/", { cache: "reload" }))));
});

registerRoute(
  ({ request, url }) => request.mode === "navigate" && isAtPress(url.pathname),
  async ({ request }) => {
    try {
      return await fetch(request);
    } catch {
      return (await caches.match("/", { cacheName: SHELL })) ?? Response.error();
    }
  },
);

registerRoute(
  ({ request, url }) => url.pathname.startsWith("/api/") && request.headers.has(AT_PRESS),
  new NetworkFirst({
    cacheName: KEPT_AT_PRESS,
    networkTimeoutSeconds: PATIENCE_S,
    plugins: [{ cacheWillUpdate: async ({ response }) => (response.status === 200 ? response : null) }],
  }),
);
