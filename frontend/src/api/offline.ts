/** What press mode keeps in the browser, so that it opens again with the network cut. */
export const KEPT_AT_PRESS = "at-press";
/** A header on what press mode reads: the service worker keeps those answers and no others. */
export const AT_PRESS = "x-at-press";

export function isAtPress(path: string): boolean {
  return /^\/jobs\/[^/]+\/press-mode$/.test(path);
}

/** Once a service worker answers for this page; never where the browser has none. */
export async function whenKept(): Promise<void> {
  if (!navigator.serviceWorker) return new Promise(() => {});
  await navigator.serviceWorker.ready;
  if (navigator.serviceWorker.controller) return;
  await new Promise((done) => navigator.serviceWorker.addEventListener("controllerchange", done, { once: true }));
}

/** Whoever leaves takes along what was read in their name. */
export async function forgetAtPress(): Promise<void> {
  if ("caches" in globalThis) await caches.delete(KEPT_AT_PRESS);
}
